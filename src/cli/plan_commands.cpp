// The command of a campaign: plan.
#include "cli/arguments.h"
#include "core/problem/input_error.h"
#include "io/plan/campaign_file.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"

#include <fmt/format.h>

namespace bathmos::cli {

namespace {

struct PlanOptions {
    std::string campaign, summary, fitted, believed;
    LimitsInForce limits{};
    std::size_t draws = plan::ForecastQuery{}.draws;
};

std::string table_of(const plan::Campaign& campaign, const plan::Plan& plan) {
    std::string out =
        fmt::format("{:>7} {:>6}  {:>6} {:>13}  {}\n", "start_h", "hours", "rpm", "10 to 90 %", "run");
    for (const plan::PlannedRun& run : plan.runs)
        out += fmt::format("{:7.1f} {:6.1f}  {:6.0f} {:6.0f}-{:6.0f}  {}: {}\n", run.start_h, run.hours,
                           run.expected.limit_rpm, run.expected.low_rpm, run.expected.high_rpm,
                           run.baseline ? "baseline" : plan::name_of(campaign, run.levels), run.why);
    out += fmt::format("{:.1f} of {:.1f} hours booked; {} left out; best: {}, {:.0f} rev/min\n", plan.hours,
                       plan.booked_h, plan.left_out.size(), plan::name_of(campaign, plan.best),
                       plan.best_expected.limit_rpm);
    return out;
}

std::vector<CarriedFit> fits_of(const PlanOptions& o, const io::CampaignDraft& draft) {
    if (o.fitted.empty()) {
        if (!o.believed.empty())
            bad_argument("--believed", "stands without --fitted", "give the fitted train, too");
        return {};
    }
    CarriedFit out{o.fitted,
                   o.believed.empty() ? io::parse_train(draft.train, o.campaign) : io::read_train(o.believed),
                   io::read_train(o.fitted)};
    const std::vector<std::string> numbers = found_numbers(out);
    if (numbers.empty())
        throw InputError({io::shown_path(o.fitted), "tolerances", "no number of it was fitted to a run",
                          "give the train that bathmos-cli calibrate --out has written"});
    note(fmt::format("fit: {} numbers of {}", numbers.size(), io::shown_path(o.fitted)));
    return {out};
}

void plan_one(const PlanOptions& o, const std::stop_token& stop) {
    require_apart({{"campaign", o.campaign}, {"--fitted", o.fitted}, {"--believed", o.believed}},
                  {{"--summary", o.summary}});
    const io::CampaignDraft draft = io::read_campaign(o.campaign);
    const std::vector<CarriedFit> fits = fits_of(o, draft);
    plan::PlanQuery query;
    query.forecast.limits = o.limits;
    query.forecast.draws = o.draws;
    query.progress = terminal_progress("plan");
    query.stop = stop;
    plan::Plan plan;
    try {
        plan = plan::plan_campaign(draft.campaign, io::candidates_of(draft, fits), query);
    } catch (const InputError& error) {
        throw error.in(io::shown_path(o.campaign));
    }
    for (const Told& one : plan.told)
        note(one.rule + ": " + one.text.in_words());
    if (o.summary.empty())
        return say(table_of(draft.campaign, plan));
    write_if(o.summary, io::plan_summary(draft.campaign, plan));
}

} // namespace

void define_plan_commands(CLI::App& app, const StopToken& stop) {
    const auto o = std::make_shared<PlanOptions>();
    CLI::App* plan = add_command(app, "plan", "Which combinations of a campaign to run, and in which order",
                                 o, stop, plan_one);
    plan->add_option("campaign", o->campaign, "Campaign file, *.campaign.json")->required();
    plan->add_option("--summary", o->summary, "JSON to write");
    plan->add_option("--draws", o->draws, "Trains drawn for each combination that may be the best")
        ->check(between(4, 1000));
    plan->add_option("--fitted", o->fitted, "Train fitted to a run: its numbers hold for the same parts");
    plan->add_option("--believed", o->believed,
                     "That train before it was fitted; the campaign's unless given");
    add_limits(plan, o->limits);
}

} // namespace bathmos::cli
