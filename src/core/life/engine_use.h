// How an engine was turned: time and cycles by classes of speed, excursions beyond a limit (docs/life.md).
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace bathmos::life {

inline constexpr double kClass_rpm = 250;   ///< width of a class of crank speed
inline constexpr double kMostGap_s = 5;     ///< between two readings of a logger; more: it was not listening
inline constexpr double kStanding_rpm = 50; ///< below: the engine stands
inline constexpr double kMost_rpm = 30000;
inline constexpr double kMostRate_rpm_per_s =
    40000; ///< that an engine changes its speed by, up and down again

/// Of one class of speed. A cycle is two crank turns.
struct ClassUse {
    double seconds = 0, cycles = 0;
    bool operator==(const ClassUse&) const = default;
};

class EngineUse {
  public:
    /// Some time at one crank speed. Throws InputError for what is no speed or no time.
    void add(double speed_rpm, double seconds);
    /// All of another use, so many times.
    void add(const EngineUse& other, double times = 1);

    /// By the class's lower end, rpm.
    const std::map<int, ClassUse>& classes() const { return classes_; }
    /// Of all classes.
    double seconds() const;
    /// Likewise.
    double cycles() const;
    /// Cycles in classes that lie above a speed, the class with it by its share.
    double cycles_above(double speed_rpm) const;
    /// Mean speed of a class, rpm.
    static double speed_of(const ClassUse& use) { return 120 * use.cycles / use.seconds; }
    bool operator==(const EngineUse&) const = default;

  private:
    std::map<int, ClassUse> classes_;
};

/// A stretch of time beyond a speed.
struct Excursion {
    double at_s = 0, seconds = 0, cycles = 0, highest_rpm = 0;
};

/// What a logger's readings of crank speed over time say.
struct LoggedUse {
    EngineUse use;
    std::vector<Excursion> excursions; ///< beyond the limit, where one was given
    std::size_t gaps = 0;              ///< times without a reading for longer than kMostGap_s
    double left_out_s = 0;             ///< in them
    std::size_t lost = 0;              ///< readings that no engine has
};

/// Counts a logger's readings as they come; memory does not grow with them. Straight lines between readings:
/// cycles are the integral of speed / 120 over time. A reading that no engine has (below 0, over kMost_rpm,
/// or faster up and down again than kMostRate_rpm_per_s) counts as lost, and the line goes on over it.
class UseCounter {
  public:
    explicit UseCounter(std::optional<double> limit_rpm = {});
    ~UseCounter();
    UseCounter(UseCounter&&) noexcept;
    /// Throws InputError, with the reading's number from 1, where times do not rise.
    void add(double time_s, double speed_rpm);
    /// What all of them say. Throws InputError for under two readings, or none that is a speed.
    LoggedUse finish();

  private:
    struct Inside;
    std::unique_ptr<Inside> in_;
};

/// The same of readings in hand. Throws InputError as it does.
LoggedUse use_of(const std::vector<double>& time_s, const std::vector<double>& speed_rpm,
                 std::optional<double> limit_rpm = {});

/// What a person says of it: "120 s at 7100 rev/min".
struct StatedUse {
    double seconds = 0, speed_rpm = 0;
};
/// Throws InputError for what is no speed or no time.
EngineUse use_of(const std::vector<StatedUse>& stated);

/// As numbers of a record: "s_at_7125": seconds by mean speed of each class. Read back they give the same
/// cycles to a millionth.
std::map<std::string, double> as_numbers(const EngineUse& use);
/// Numbers of other keys are passed over. Throws InputError for a key "s_at_" that is none.
EngineUse use_from(const std::map<std::string, double>& numbers);

} // namespace bathmos::life
