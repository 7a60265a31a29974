#include "core/verdict/case_file.h"

#include "core/math/robust.h"
#include "core/verdict/two_troubles.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bathmos {

namespace {

constexpr double kNear = 0.035;      // share of the speed that unfitted model and rig may be off
constexpr double kWellPast = 0.05;   // a model that far above a break does not explain it
constexpr double kHelps = 0.022;     // share of the limit that a cure must gain to count as much
constexpr double kSmoothFall = 0.02; // share of the peak that is gone at the end
constexpr double kLeastFall = 0.01;  // under that nothing is lost at the end
constexpr double kRepeats_rpm = 90;
constexpr double kToldTwice = 0.5; // a smooth fall and no break are one look at one curve
constexpr double kGradual = 0.2, kGradualNear = 0.85,
                 kGradualFar = 0.6;    // a limit crossed below the break, share of it
constexpr double kOpensLate_deg = 2.0; // near the onset against slow speed, crank degrees
constexpr double kUndone_rpm = 120;    // what undoing a change must gain to be its doing
constexpr double kNewLoss = 0.015;     // share of the power that the top lost against the state before
constexpr double kPast_rpm = 250;      // how far the state before must have run past a break

constexpr double kOneFailure = 0.7; // of what two of a kind say

double rising(double x) {
    return 1 / (1 + std::exp(-x));
}

class Collector {
  public:
    explicit Collector(const CaseFile& file) : file_(file) {
        for (const PullCase& p : file.pulls)
            analyses_.push_back(&p.analysis);
        break_ = dyno_break(file);
        speed_ = question_speed(file).rpm;
    }

    std::vector<Evidence> all() {
        if (!file_.pulls.empty()) {
            dyno();
            logged();
            trials();
        }
        if (file_.model)
            model();
        if (file_.rig)
            rig();
        bench();
        if (file_.changes)
            changes();
        return std::move(out_);
    }

  private:
    void add(Symptom symptom, double seen, MeasuredText text, std::string link, double relevance = 1) {
        if (relevance > 0.05)
            out_.push_back(
                {symptom, std::clamp(seen, 0.02, 0.98), std::move(text), std::move(link), relevance});
    }

    void dyno() {
        if (break_ && break_->growing)
            add(Symptom::Break, break_->confidence,
                {fmt::format("against the state before, power is lost from {:.0f} rev/min on, by {{}} at the "
                             "end",
                             break_->speed_rpm),
                 {{Quantity::Power, break_->depth_W}}},
                "dyno/difference");
        else if (break_)
            add(Symptom::Break,
                break_->confidence * static_cast<double>(break_->pulls) / static_cast<double>(break_->of),
                {fmt::format("power breaks away at {:.0f} rev/min, by {{}}, in {} of {} pulls",
                             break_->speed_rpm, break_->pulls, break_->of),
                 {{Quantity::Power, break_->depth_W}}},
                "dyno/power");
        else
            add(Symptom::Break, 0.03, "power never leaves its own trend", "dyno/power");
        std::vector<double> rough, fall;
        bool cut = false;
        double cut_rpm = 0, cut_share = 0;
        for (const PullAnalysis* a : analyses_) {
            rough.push_back(a->rough_top);
            fall.push_back(1 - a->trend_W.back() / a->peak_W);
            if (a->cut) {
                cut = true;
                cut_rpm = a->cut->speed_rpm;
                cut_share = a->cut->share;
            }
        }
        add(Symptom::RoughAbove, rising(4 * (median(rough) - 1.7)),
            median(rough) < 1.15
                ? std::string("power is no rougher at the top than in the mid-range")
                : fmt::format("power is {:.1f} times as rough at the top as in the mid-range", median(rough)),
            "dyno/rough");
        const double end = median(fall);
        if (!break_)
            add(Symptom::SmoothFall, rising((end - kSmoothFall) / 0.008),
                fmt::format("power is {:.0f} % below its peak at the end, without a break", 100 * end),
                "dyno/power", kToldTwice);
        else if (!break_->growing)
            add(Symptom::SmoothFall, 0.06, "power does not roll over smoothly, it breaks", "dyno/power",
                kToldTwice);
        if (break_ && !break_->growing && break_->pulls > 1)
            add(Symptom::Repeats, rising((kRepeats_rpm - break_->scatter_rpm) / 25),
                fmt::format("the break repeats within {:.0f} rev/min over {} pulls", 2 * break_->scatter_rpm,
                            break_->pulls),
                "dyno/power");
        add(Symptom::CutOff, cut ? 0.95 : 0.03,
            cut ? fmt::format("{:.0f} % of the power is gone at once at {:.0f} rev/min", 100 * cut_share,
                              cut_rpm)
                : "power is nowhere cut off at once",
            "dyno/power");
        if (!file_.pulls_before.empty())
            against_before();
    }

    // Whether the loss is this state's own: the state before ran past the break, or kept its power to the
    // top.
    void against_before() {
        std::vector<const PullAnalysis*> before;
        for (const PullCase& p : file_.pulls_before)
            before.push_back(&p.analysis);
        if (break_ && break_->growing)
            return add(Symptom::NewInThisState, 0.95, "only the state before shows that it is lost",
                       "dyno/difference");
        const auto old = break_of_state(before);
        if (break_) {
            double end = 0;
            for (const PullAnalysis* a : before)
                end = std::max(end, a->curve.speed_rpm.back());
            const double past = (old ? old->speed_rpm : end) - break_->speed_rpm;
            if (end > break_->speed_rpm + kPast_rpm)
                add(Symptom::NewInThisState, rising((past - kPast_rpm / 2) / 60),
                    old ? fmt::format("the state before broke at {:.0f} rev/min", old->speed_rpm)
                        : fmt::format("the state before ran to {:.0f} rev/min without a break", end),
                    "dyno/power");
            return;
        }
        if (const auto lost = upper_loss(before, analyses_))
            add(Symptom::NewInThisState, rising((lost->share - kNewLoss) / 0.004),
                fmt::format("against the state before, the top has lost {:.1f} % more than the mid-range",
                            100 * std::max(0.0, lost->share)),
                "dyno/difference");
    }

    void logged() {
        std::vector<std::vector<ConfounderTest>> tests;
        for (const PullCase& p : file_.pulls)
            tests.push_back(p.tests);
        for (const ConfounderTest& t : test_confounders(tests)) {
            if (t.status == TestStatus::NotLogged)
                continue;
            add(static_cast<Symptom>(static_cast<std::size_t>(Symptom::BlowerFalls) +
                                     static_cast<std::size_t>(t.kind)),
                t.seen, t.text,
                t.channel ? fmt::format("dyno/channel/{}", info(*t.channel).key) : "dyno/power");
            out_.back().too_late = begins_too_late(t, break_);
        }
    }

    // Pulls of this state with another boost or fuel are a trial of their own.
    void trials() {
        std::map<std::string, std::vector<double>> by_fuel, by_boost; // of pulls that note it
        for (const PullCase& p : file_.pulls)
            if (const PowerBreak* b = p.analysis.first_break()) {
                if (!p.fuel.empty())
                    by_fuel[p.fuel].push_back(b->speed_rpm);
                if (p.boost_Pa)
                    by_boost[fmt::format("{:.0f}", *p.boost_Pa)].push_back(b->speed_rpm);
            }
        std::optional<double> moves;
        for (const auto* settings : {&by_fuel, &by_boost}) {
            std::vector<double> speeds;
            for (const auto& [setting, breaks] : *settings)
                speeds.push_back(median(breaks));
            if (speeds.size() > 1) {
                const auto [low, high] = std::minmax_element(speeds.begin(), speeds.end());
                moves = std::max(moves.value_or(0), *high - *low);
            }
        }
        if (moves)
            add(Symptom::StaysWithBoost, rising((150 - *moves) / 40),
                fmt::format("the break moves by {:.0f} rev/min between settings of boost or fuel", *moves),
                "dyno/power");
        if (!break_)
            return;
        for (const LaterState& later : file_.later)
            if (auto said = said_by(later, break_->speed_rpm))
                out_.push_back(std::move(*said));
        if (!file_.changes || file_.changes->nothing_in_the_train() || file_.pulls_before.empty())
            return;
        std::vector<const PullAnalysis*> before;
        for (const PullCase& p : file_.pulls_before)
            before.push_back(&p.analysis);
        if (const auto old = break_of_state(before))
            add(Symptom::MovesWithTrain, rising((std::abs(old->speed_rpm - break_->speed_rpm) - 150) / 50),
                fmt::format("the break moved from {:.0f} to {:.0f} rev/min with the change", old->speed_rpm,
                            break_->speed_rpm),
                "dyno/power");
    }

    void model() {
        const ModelFacts& m = *file_.model;
        if (file_.calibrated)
            return; // its reading says by which mechanism, and the rig's own onset where
        const std::string model = m.head_Pa ? "the model, under the pulls' boost," : "the model";
        double near = 1; // what the model shows at another speed says little about this one
        if (speed_ && question_speed(file_).from != "model") {
            const double limit = m.limit_rpm.value_or(1e9), onset = m.onset_rpm.value_or(1e9);
            const double off = std::min(std::abs(limit - *speed_), std::abs(onset - *speed_)) / *speed_;
            const std::string says =
                m.limit_rpm ? fmt::format("{} has its limit at {:.0f} rev/min{}", model, limit,
                                          m.onset_rpm ? fmt::format(", its onset {:.0f}", onset) : "")
                            : model + " has no limit in the range";
            near = off > 1 ? 0 : rising((2 * kNear - off) / 0.012);
            add(Symptom::ModelNear, off > 1 ? 0.02 : rising((kNear - off) / 0.008),
                off > 1 ? says : fmt::format("{}: {:.1f} % from what was seen", says, 100 * off),
                "motion/sweep");
            const double past = (std::min(limit, onset) - *speed_) / *speed_;
            add(Symptom::ModelBelow, past > 1 ? 0.95 : rising((past - kWellPast) / 0.01), says,
                "motion/sweep");
        }
        if (m.limit_metric) {
            const Metric first = *m.limit_metric;
            const std::string says = fmt::format("{} is the first to cross its limit, at {:.0f} rev/min",
                                                 info(first).label, *m.limit_rpm);
            const auto is = [&](std::initializer_list<Metric> list) {
                return std::find(list.begin(), list.end(), first) != list.end() ? 0.95 : 0.05;
            };
            add(Symptom::LosesContactFirst, is({Metric::ContactLoss, Metric::Loft}), says, "motion/sweep",
                near);
            add(Symptom::LandsHardFirst, is({Metric::Seating, Metric::Bounce, Metric::DurationChange}), says,
                "motion/sweep", near);
            add(Symptom::HeldOpenFirst, is({Metric::HeldOpen}), says, "motion/sweep", near);
        }
        const double limit = m.limit_rpm.value_or(speed_.value_or(8000));
        for (const auto& [key, symptom] : {std::pair{"spring", Symptom::SpringHelps},
                                           {"stiffness", Symptom::StiffnessHelps},
                                           {"damping", Symptom::DampingHelps},
                                           {"pressure_off", Symptom::PressureOffHelps},
                                           {"solid_follower", Symptom::SolidFollowerHelps}})
            for (const Cure& cure : m.cures)
                if (cure.key == key)
                    add(symptom, rising((cure.gain_rpm / limit - kHelps) / 0.006),
                        fmt::format("{} moves the model's limit by {:+.0f} rev/min", cure.label,
                                    cure.gain_rpm),
                        "motion/sweep", near);
        add(Symptom::CoilsMeet, m.clash_rpm && m.clash_rpm < limit + 100 ? 0.95 : 0.04,
            m.clash_rpm ? fmt::format("coils meet from {:.0f} rev/min", *m.clash_rpm)
                        : "no coils meet in the range",
            "motion/sweep", near);
        add(Symptom::LittleRoom, rising((1.15e-3 - m.bind_margin_m) / 0.12e-3),
            {"bind margin {} at peak lift", {{Quantity::Length, m.bind_margin_m}}}, "train/checks");
    }

    static std::optional<double> at_speed(const std::vector<SpeedMetrics>& rows, Metric m, double rpm) {
        std::optional<double> out;
        double nearest = 160;
        for (const SpeedMetrics& row : rows)
            if (std::abs(row.speed_rpm - rpm) < nearest && row.metrics[m]) {
                nearest = std::abs(row.speed_rpm - rpm);
                out = row.metrics[m];
            }
        return out;
    }

    // The rig's onset near the break; or a metric that crossed its limit gradually, at the break or below it:
    // it goes on growing from there, and what it costs may show later.
    void rig_near(const RigFacts& r) {
        const double at = break_->speed_rpm, reach = 0.03 * at + r.half_step_rpm;
        const double off = r.onset_rpm ? std::abs(*r.onset_rpm - at) : 1e9;
        double seen = off > 5000 ? 0.02 : rising((reach - off) / 60);
        std::string says =
            r.onset_rpm ? fmt::format("the rig's onset is {:.0f} ± {:.0f} rev/min, {:.0f} from the break",
                                      *r.onset_rpm, r.half_step_rpm, off)
                        : "the rig shows no onset over its range";
        if (r.limit_rpm && *r.limit_rpm < at + reach) {
            const double crossed = *r.limit_rpm > (1 - kGradual) * at ? kGradualNear : kGradualFar;
            if (crossed > seen) {
                seen = crossed;
                says = fmt::format("on the rig {} is over its limit from {:.0f} rev/min, gradually, {}",
                                   info(*r.limit_metric).label, *r.limit_rpm,
                                   *r.limit_rpm < at - reach ? "well before the break"
                                                             : "about where power breaks");
            }
        }
        add(Symptom::RigNear, seen, says, "rig/metric");
    }

    // A hold that creeps says so at any speed; one that does not only where something was to be seen: from
    // where the rig shows something on.
    void rig_creeps(const RigFacts& r) {
        const auto creeping =
            std::ranges::find_if(r.holds, [](const rig::HeldSpeed& hold) { return !hold.passes(); });
        if (creeping != r.holds.end()) {
            const rig::Creep& peak = creeping->peak_m;
            const std::string what =
                peak.creeps ? fmt::format("its highest lift by {:+.1f} um a second", peak.per_s * 1e6)
                : creeping->held_open_m.creeps ? "the level of the closed valve"
                : creeping->bounce_m.creeps    ? "its bounce"
                                               : "its duration";
            return add(Symptom::RigCreeps, 0.93,
                       fmt::format("held at {:.0f} rev/min for {:.0f} s it creeps: {}", creeping->speed_rpm,
                                   creeping->seconds, what),
                       "rig/runs");
        }
        for (const rig::HeldSpeed& hold : r.holds)
            if (r.first_rpm() && hold.speed_rpm >= *r.first_rpm())
                return add(Symptom::RigCreeps, 0.04,
                           fmt::format("held at {:.0f} rev/min for {:.0f} s nothing creeps", hold.speed_rpm,
                                       hold.seconds),
                           "rig/runs");
    }

    void rig() {
        const RigFacts& r = *file_.rig;
        if (break_)
            rig_near(r);
        add(Symptom::RigHeldOpen, r.held_open_rpm ? 0.95 : 0.03,
            r.held_open_rpm ? fmt::format("held open on the rig from {:.0f} rev/min", *r.held_open_rpm)
                            : "nowhere held open on the rig",
            "rig/metric/held_open_mm");
        rig_creeps(r);
        if (file_.calibrated)
            return run_reading(*file_.calibrated);
        if (const auto first = r.first_metric()) {
            const bool by_onset = r.first_rpm() == r.onset_rpm;
            const std::string says = fmt::format(
                "{} {} on the rig, at {:.0f} rev/min", info(*first).label,
                by_onset ? "leaves its trend first" : "is the first to cross its limit", *r.first_rpm());
            const bool lands =
                *first == Metric::Bounce || *first == Metric::Seating || *first == Metric::DurationChange;
            add(Symptom::RigLandsFirst, lands ? 0.93 : 0.06, says,
                fmt::format("rig/metric/{}", info(*first).column));
            add(Symptom::RigLoftFirst, *first == Metric::Loft ? 0.93 : 0.06, says, "rig/metric/loft_mm");
        }
        add(Symptom::RigSurgeBand, r.bands.empty() ? 0.05 : 0.85,
            r.bands.empty() ? "no band departs and comes back on the rig"
                            : fmt::format("{} departs between {:.0f} and {:.0f} rev/min and comes back",
                                          info(r.bands.front().metric).label, r.bands.front().from_rpm,
                                          r.bands.front().to_rpm),
            "rig/metric");
        // The slowest speed tells what is common to all speeds: lash, zero, phase.
        const auto late = [](const std::vector<SpeedMetrics>& rows, double from,
                             double to) -> std::optional<double> {
            const auto slow = at_speed(rows, Metric::OpeningShift, from),
                       fast = at_speed(rows, Metric::OpeningShift, to);
            return slow && fast ? std::optional(*fast - *slow) : std::nullopt;
        };
        if (r.rows.empty())
            return;
        const double low = r.rows.front().speed_rpm,
                     high = 0.96 * r.onset_rpm.value_or(r.rows.back().speed_rpm);
        const auto seen = late(r.rows, low, high);
        const auto predicted = file_.model ? late(file_.model->rows, low, high) : std::nullopt;
        if (seen)
            add(Symptom::RigOpensLate, rising((*seen - kOpensLate_deg) / 0.3),
                fmt::format("on the rig it opens {:.1f}° later at {:.0f} than at {:.0f} rev/min{}", *seen,
                            high, low, predicted ? fmt::format(", in the model {:.1f}°", *predicted) : ""),
                "rig/metric/opening_shift_deg");
    }

    void run_reading(const RunReading& reading) {
        const RunShares shares = shares_of_run(file_);
        const std::array<double, kCauses> under = run_likelihoods(shares);
        Evidence one{Symptom::RunReads, 1, MeasuredText(said_by_run(reading, shares)), "rig/calibrate"};
        one.under.assign(under.begin(), under.end());
        out_.push_back(std::move(one));
    }

    void bench() {
        MeasuredText names;
        for (const OpenCheck& open : file_.open)
            if (open.check == Check::InstalledHeight || open.check == Check::SeatLoad ||
                open.check == Check::LockSeating || open.check == Check::SpringFit)
                names += MeasuredText(names.empty() ? "" : ", ") + std::string(info(open.check).label);
        for (const Finding& f : file_.findings)
            if (f.severity != Severity::Note && (f.rule == "lock_angle" || f.rule == "spring_life" ||
                                                 f.rule == "close_wound" || f.rule == "retainer_step"))
                names += MeasuredText(names.empty() ? "" : ", ") + told(f);
        add(Symptom::SpringSuspect, names.empty() ? 0.08 : 0.9,
            names.empty() ? MeasuredText("no open check or finding about spring, height or locks")
                          : MeasuredText("open: ") + names,
            "train/checks");
        for (const FailureSeen& one : file_.failures)
            failed(one);
    }

    // A part that failed speaks by its own table; once may be chance, again and again is not.
    void failed(const FailureSeen& one) {
        FailureReading reading = read_failure(one);
        if (!reading.speaks)
            return;
        out_.push_back({Symptom::Failed, 0.98,
                        fmt::format("{} {}{}{}: look at {}", one.name, one.mode,
                                    one.times > 1 ? fmt::format(", {} times", one.times) : "",
                                    one.place.empty() ? "" : " (" + one.place + ")", reading.inspect),
                        "log", one.times > 1 ? 1.0 : kOneFailure, std::move(reading.under)});
    }

    void changes() {
        const ChangeFacts& c = *file_.changes;
        const auto judge = [&](Symptom symptom, bool changed, std::initializer_list<PartKind> kinds,
                               const char* not_so, std::string_view key = "none") {
            if (!changed)
                return add(symptom, 0.03, not_so, "train/revisions");
            std::optional<double> gain; // the largest that undoing one of them brings
            MeasuredText text;
            for (const StateChange& change : c.changes) {
                if (change.kind ? std::find(kinds.begin(), kinds.end(), *change.kind) == kinds.end()
                                : change.key != key)
                    continue;
                text += MeasuredText(text.empty() ? "" : "; ") + change.text;
                if (change.undone_gain_rpm)
                    gain = std::max(gain.value_or(-1e9), *change.undone_gain_rpm);
            }
            add(symptom, gain ? 0.15 + 0.8 * rising((*gain - kUndone_rpm) / 30) : 0.8,
                gain ? text + fmt::format(": undone, the model's limit moves by {:+.0f} rev/min", *gain)
                     : text,
                "train/revisions");
        };
        judge(Symptom::SofterLink, c.softer_link,
              {PartKind::Pushrod, PartKind::Rocker, PartKind::Stand, PartKind::Lifter},
              "no link of the train was made softer");
        judge(Symptom::LobeChanged, c.lobe, {PartKind::Lobe}, "lobe and lash are as they were", "lash_mm");
        if (file_.hydraulic)
            judge(Symptom::FollowerChanged, c.follower, {PartKind::Lifter}, "the followers are as they were");
        judge(Symptom::MassAdded, c.heavier,
              {PartKind::Valve, PartKind::Retainer, PartKind::Locks, PartKind::Cap},
              "the valve side is no heavier");
        add(Symptom::SpringChanged, c.spring ? 0.95 : 0.03,
            c.spring ? "spring, retainer, locks or height changed"
                     : "spring, retainer, locks and height are as they were",
            "train/revisions");
        add(Symptom::BoostRaised, c.boost ? 0.95 : 0.04,
            !c.boost_text.empty() ? c.boost_text
            : c.boost             ? MeasuredText("pressure on the head was raised")
                                  : MeasuredText("pressure on the head is as it was"),
            "train/revisions");
        if (!c.oil_text.empty())
            add(Symptom::OilRaised, c.oil ? 0.95 : 0.04, c.oil_text, "dyno/channel/oil");
        add(Symptom::NothingInTheTrain, c.nothing_in_the_train() ? 0.95 : 0.03,
            c.nothing_in_the_train()
                ? fmt::format("nothing in the train changed since {}", c.from)
                : fmt::format("{} in the train changed since {}",
                              c.changes.size() == 1 ? "one thing"
                                                    : fmt::format("{} things", c.changes.size()),
                              c.from),
            "train/revisions");
    }

    const CaseFile& file_;
    std::vector<const PullAnalysis*> analyses_;
    std::optional<StateBreak> break_;
    std::optional<double> speed_;
    std::vector<Evidence> out_;
};

} // namespace

std::optional<StateBreak> dyno_break(const CaseFile& file) {
    std::vector<const PullAnalysis*> pulls, before;
    for (const PullCase& p : file.pulls)
        pulls.push_back(&p.analysis);
    for (const PullCase& p : file.pulls_before)
        before.push_back(&p.analysis);
    return break_against(before, pulls);
}

QuestionSpeed question_speed(const CaseFile& file) {
    std::vector<const PullAnalysis*> pulls;
    for (const PullCase& p : file.pulls)
        pulls.push_back(&p.analysis);
    if (const auto b = dyno_break(file))
        return {b->speed_rpm, "dyno"};
    if (file.rig && file.rig->first_rpm())
        return {file.rig->first_rpm(), "rig"};
    if (!pulls.empty()) {
        std::vector<const PullAnalysis*> before;
        for (const PullCase& p : file.pulls_before)
            before.push_back(&p.analysis);
        if (const auto lost = before.empty() ? std::nullopt : upper_loss(before, pulls);
            lost && lost->from_rpm)
            return {lost->from_rpm, "dyno"};
        std::vector<double> peaks, fall;
        bool cut = false;
        for (const PullAnalysis* a : pulls) {
            peaks.push_back(a->peak_rpm);
            fall.push_back(1 - a->trend_W.back() / a->peak_W);
            cut = cut || a->cut;
        }
        if (cut || median(fall) > kLeastFall)
            return {median(peaks), "dyno"};
        return {}; // these pulls lose nothing: there is no question
    }
    if (file.model && file.model->limit_rpm)
        return {file.model->limit_rpm, "model"};
    return {};
}

double wanted_speed(const CaseFile& file) {
    if (file.target_rpm > 0)
        return file.target_rpm;
    const QuestionSpeed speed = question_speed(file);
    return speed.from == "dyno" ? speed.rpm.value_or(0) : 0;
}

RunShares shares_of_run(const CaseFile& file) {
    return run_shares(*file.calibrated, wanted_speed(file),
                      file.rig ? file.rig->first_rpm() : std::optional<double>());
}

std::vector<Evidence> evidence_of(const CaseFile& file) {
    return Collector(file).all();
}

std::vector<Cause> impossible_causes(const CaseFile& file) {
    std::vector<Cause> out;
    if (!file.hydraulic)
        out.push_back(Cause::PumpUp);
    if (file.charged == false) {
        out.push_back(Cause::BeltSlip);
        out.push_back(Cause::BoostOnHead);
    }
    return out;
}

} // namespace bathmos
