// Stand-ins for what lies on a bench: spring tester, scale, two dials on a turning cam, height micrometer,
// ball gauge, profile gauge, load cell with a dial. Each measures a *true* part that it keeps to itself, with
// an instrument's errors and, where switched on, a slip of the hand. For tests and to try the bench without
// devices; nothing here is known to the arithmetic of the sheets.
#pragma once

#include <memory>
#include <optional>
#include <random>
#include <string>
#include <string_view>
#include <vector>

namespace bathmos::standin {

enum class Instrument {
    SpringTester,
    Scale,
    TwoDials,
    HeightMicrometer,
    BallGauge,
    ProfileGauge,
    LoadAndDial
};
/// Its name on the command line: "spring_tester", "two_dials".
std::string_view name_of(Instrument instrument);
std::optional<Instrument> find_instrument(std::string_view name);
const std::vector<Instrument>& all_instruments();

/// What the instrument adds, in the units that it shows (mm, N, g, degrees). A negative number: as usual for
/// its kind.
struct InstrumentErrors {
    double zero = -1;       ///< what it shows of nothing, at most
    double noise = -1;      ///< standard deviation of a line
    double drift = -1;      ///< of the zero over all readings, standard deviation
    double resolution = -1; ///< smallest step
    double backlash = -1;   ///< what it stays behind by where the direction turns
};

/// What a hand does wrong.
enum class Slip { None, TiredSpring, WrongBall, SwappedSteps, DialMoved, BentRod };
std::string_view name_of(Slip slip);
std::optional<Slip> find_slip(std::string_view name);

struct InstrumentSetup {
    Instrument kind = Instrument::SpringTester;
    unsigned seed = 1;
    InstrumentErrors errors{};
    Slip slip = Slip::None;
    std::size_t parts = 1;       ///< springs of a set, parts to weigh, valves of a head
    std::vector<double> at_mm{}; ///< spring tester: heights to press to; empty: its own
};

/// The hidden part, for tests: everything in the units that instruments show.
struct Truth {
    std::vector<double> load_at_46_N, rate_N_per_mm; ///< by spring
    std::vector<double> solid_mm, rub_N;             ///< by spring
    std::vector<double> mass_g;                      ///< by part on the scale
    double ratio = 1.6;                              ///< at the peak
    double stiffness_N_per_mm = 12000;               ///< of train or part
    double height_mm = 46;                           ///< with the old retainer
    double old_step_mm = 4, new_step_mm = 4, old_depth_mm = 2, new_depth_mm = 2;
    double new_height_mm = 46;    ///< with the new one, by the same locks
    double ball_smaller_mm = 0.1; ///< where another ball was taken
    double lobe_lift_mm = 8.5;
    double progress = 0;   ///< share that the rate grows by, per mm pressed from 46 mm
    std::size_t tired = 0; ///< which spring, where one is
    /// N at a height, without rub; of spring `i`. As tested, not as it was when new.
    double load_N(std::size_t i, double at_mm) const;
    double lost_share = 0; ///< by the tired spring
};

/// One instrument over one or more parts. What it is told moves the hand; what it shows is a line of text.
class BenchInstrument {
  public:
    explicit BenchInstrument(const InstrumentSetup& setup);
    /// What it shows now: numbers with names and units. Noise is drawn anew.
    std::string line();
    /// "next" (the next reading of its programme), "part" (the next part), "working" (dials: the working
    /// spring in place of the checking one), "to NUMBER" (mm or degrees), "zero" (nothing on it), "again"
    /// (from the start). "" where it was done, else what it did not understand.
    std::string command(std::string_view text);
    /// Whether its programme is over: "next" stays where it is.
    bool done() const;
    const Truth& truth() const { return truth_; }

  private:
    struct Place {
        double at = 0;
        bool back = false;
    };
    void draw_part();
    void make_programme();
    double hand_at(double place);
    double with_errors(double value);
    double error(double InstrumentErrors::*which) const;
    std::string show_spring();
    std::string show_dials();

    InstrumentSetup setup_;
    Truth truth_;
    InstrumentErrors usual_;
    std::mt19937 draw_;
    std::vector<Place> programme_;
    std::size_t step_ = 0, part_ = 0, taken_ = 0;
    bool working_ = false, empty_ = true;
    double zero_ = 0, drift_ = 0;
    std::optional<double> elsewhere_; ///< where "to" moved it
    double astray_ = 0;               ///< of the hand from the place it goes to, mm
};

} // namespace bathmos::standin
