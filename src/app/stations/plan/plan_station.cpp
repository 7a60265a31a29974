#include "app/stations/plan/plan_station.h"

#include "app/stations/bench/sheet_page.h"
#include "app/stations/plan/campaign_form.h"
#include "app/stations/plan/plan_view.h"
#include "app/stations/plan/run_sheets.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/train/train_file.h"

#include <QComboBox>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

PlanStation::PlanStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("plan"), parent), dialogs_(dialogs), pages_(new QStackedLayout(this)) {
    pages_->addWidget(make_empty());
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(12, 8, 12, 8);
    layout->setSpacing(6);
    layout->addWidget(make_head());
    auto* split = new QSplitter(Qt::Horizontal);
    form_ = new CampaignForm(context_);
    view_ = new PlanView(context_);
    split->addWidget(form_);
    split->addWidget(view_);
    split->setSizes({430, 730});
    layout->addWidget(split, 1);
    pages_->addWidget(page);
    connect(form_, &CampaignForm::edited, this, &PlanStation::keep);
    connect(form_, &CampaignForm::message, this, &Station::message);
    connect(view_, &PlanView::message, this, &Station::message);
    connect(view_, &PlanView::came, this, [this](const plan::MeasuredRun& run) {
        if (auto next = draft()) {
            next->campaign.measured.push_back(run);
            keep(*next, tr("Result of %1").arg(words(plan::name_of(next->campaign, run.levels))));
        }
    });
    connect(view_, &PlanView::taken_back, this, [this] {
        if (auto next = draft(); next && !next->campaign.measured.empty()) {
            next->campaign.measured.pop_back();
            keep(*next, tr("Result taken back"));
        }
    });
    refresher_ = new Refresher(this, kPage_ms, [this] { refresh(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(&context_.document, &Document::records_changed, this, ask);
    connect(&context_.document, &Document::revision_shown, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    refresh();
}

QWidget* PlanStation::make_empty() {
    auto* empty = new EmptyNote(tr(
        "<h3>Plan</h3><p>Days on a rig cost more than springs. What could be changed, how long each change "
        "takes and the hours that are booked go in; which combinations are worth a run, and the order with "
        "the "
        "least rework, come out.</p><p>A campaign takes its parts from the shelf.</p>"));
    connect(empty->add_step(tr("New campaign"), QStringLiteral("plan_begin")), &QPushButton::clicked, this,
            &PlanStation::begin);
    connect(empty->add_step(tr("Open a campaign file…"), QStringLiteral("plan_open_first")),
            &QPushButton::clicked, this, &PlanStation::open_asking);
    return empty;
}

QWidget* PlanStation::make_head() {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    campaigns_ = new QComboBox;
    campaigns_->setObjectName(QStringLiteral("plan_campaigns"));
    campaigns_->setAccessibleName(tr("Campaigns of this build"));
    campaigns_->setMinimumWidth(200);
    connect(campaigns_, &QComboBox::activated, this, [this] {
        campaign_ = static_cast<Id>(campaigns_->currentData().toLongLong());
        refresh();
    });
    line->addWidget(campaigns_);
    const auto button = [&](const char* name, const QString& text, auto slot) {
        auto* out = new QPushButton(text);
        out->setObjectName(QLatin1String(name));
        connect(out, &QPushButton::clicked, this, slot);
        line->addWidget(out);
        return out;
    };
    button("plan_new", tr("New"), &PlanStation::begin);
    button("plan_open", tr("Open…"), &PlanStation::open_asking);
    save_ = button("plan_save", tr("Save as…"), &PlanStation::save_file);
    remove_ = button("plan_remove", tr("Remove"), &PlanStation::remove);
    line->addStretch(1);
    progress_ = new QProgressBar;
    progress_->setAccessibleName(tr("Combinations forecast"));
    progress_->setFixedWidth(120);
    line->addWidget(progress_);
    stop_ = button("plan_stop", tr("Stop"), [this] {
        work_.stop();
        show();
    });
    run_ = button("plan_run", tr("&Plan"), &PlanStation::run);
    run_->setToolTip(tr("Asks the full model for every combination, and orders the runs"));
    sheets_ = button("plan_sheets", tr("Run sheets…"), &PlanStation::save_sheets);
    sheets_->setToolTip(tr("A page of paper for each run"));
    return box;
}

const Entry* PlanStation::record() const {
    const auto& plans = context_.document.project().of(EntryKind::Plan);
    const auto at = plans.find(campaign_);
    return at == plans.end() ? nullptr : &at->second;
}

std::optional<io::CampaignDraft> PlanStation::draft() const {
    const Entry* kept = record();
    try {
        return kept ? std::optional(session::campaign_of(context_.document.project(), *kept)) : std::nullopt;
    } catch (const InputError&) { // a record that is no campaign: refresh() says why
        return std::nullopt;
    }
}

std::vector<CarriedFit> PlanStation::fits_there() const {
    const Entry* kept = record();
    return kept ? session::fits_for(context_.document.project(), kept->revision) : std::vector<CarriedFit>();
}

std::string PlanStation::hash_of(const io::CampaignDraft& draft) const {
    return session::forecast_hash(draft, context_.document.limits(),
                                  draft.use_fit ? fits_there() : std::vector<CarriedFit>());
}

void PlanStation::refresh() {
    const bool open = context_.document.has_train();
    const std::vector<Id> all =
        open ? session::campaigns_of(context_.document.project(), context_.document.build())
             : std::vector<Id>();
    if (std::ranges::find(all, campaign_) == all.end())
        campaign_ = all.empty() ? 0 : all.back();
    pages_->setCurrentIndex(campaign_ ? 1 : 0);
    findChild<QPushButton*>(QStringLiteral("plan_begin"))->setEnabled(open);
    findChild<QPushButton*>(QStringLiteral("plan_open_first"))->setEnabled(open);
    campaigns_->clear();
    for (const Id id : all)
        campaigns_->addItem(words(context_.document.project().of(EntryKind::Plan).at(id).name),
                            static_cast<qlonglong>(id));
    campaigns_->setCurrentIndex(campaigns_->findData(static_cast<qlonglong>(campaign_)));
    if (!campaign_) {
        work_.stop();
        known_.reset();
        plan_.reset();
        return;
    }
    try {
        const io::CampaignDraft now = session::campaign_of(context_.document.project(), *record());
        form_->show_campaign(now, fits_there());
        drop_what_is_of_others(now);
    } catch (const InputError& error) {
        form_->setEnabled(false);
        view_->setEnabled(false); // what stands there is of another campaign
        return say(phrase(error.what()));
    }
    form_->setEnabled(true);
    view_->setEnabled(true);
    plan_again();
    show();
}

// A forecast of other combinations says nothing of these: another campaign, a factor or a level more or less.
void PlanStation::drop_what_is_of_others(const io::CampaignDraft& now) {
    const auto same = [](const plan::Factor& a, const plan::Factor& b) {
        return a.name == b.name && a.levels == b.levels;
    };
    if (std::ranges::equal(planned_factors_, now.campaign.factors, same))
        return;
    known_.reset();
    plan_.reset();
}

void PlanStation::show() {
    const bool running = work_.running();
    progress_->setVisible(running);
    stop_->setVisible(running);
    run_->setEnabled(!running && campaign_ != 0);
    const auto now = draft();
    if (now)
        drop_what_is_of_others(*now);
    const bool old =
        plan_ && now && (planned_ != io::campaign_text(*now) || !known_ || known_->hash != hash_of(*now));
    sheets_->setEnabled(plan_ && !old && !plan_->runs.empty());
    if (now)
        view_->show_plan(*now, known_, plan_, old);
}

void PlanStation::begin() {
    try {
        const io::CampaignDraft fresh = session::new_campaign(
            context_.document.project(), context_.document.shown(), context_.document.range());
        campaign_ = context_.document.add_entry(
            EntryKind::Plan,
            session::campaign_record(fresh, tr("Campaign").toStdString(), context_.document.shown()),
            tr("Campaign"));
        refresh();
    } catch (const InputError& error) {
        say(phrase(error.what()));
    }
}

void PlanStation::open_asking() {
    if (const QString path = dialogs_.open_campaign(); !path.isEmpty())
        open_file(path);
}

void PlanStation::open_file(const QString& path) {
    try {
        const io::CampaignDraft read = io::parse_campaign(
            io::read_file(native(path), io::kMostCampaignBytes), io::shown_path(native(path)),
            std::filesystem::path(native(path)).parent_path(), &context_.document.train());
        campaign_ = context_.document.add_entry(
            EntryKind::Plan,
            session::campaign_record(read, path.section(QLatin1Char('/'), -1).toStdString(),
                                     context_.document.shown()),
            tr("Campaign from a file"));
        refresh();
        if (io::parse_train(read.train, "") != context_.document.train())
            say(tr("The campaign was made for another train: its levels are now taken on this revision's."));
    } catch (const InputError& error) {
        say(tr("The campaign was not opened. %1").arg(phrase(error.what())));
    }
}

void PlanStation::save_file() {
    const auto now = draft();
    if (!now)
        return;
    const QString path =
        dialogs_.save_file(words(record()->name).remove(QLatin1Char('/')) + QStringLiteral(".campaign.json"));
    if (path.isEmpty())
        return;
    try {
        io::write_file(native(path), io::campaign_text(*now));
    } catch (const InputError& error) {
        say(phrase(error.what()));
    }
}

void PlanStation::save_sheets() {
    const auto now = draft();
    if (!now || !plan_)
        return;
    const QString path = dialogs_.save_file(tr("run sheets.pdf"));
    if (path.isEmpty())
        return;
    const QString of = words(context_.document.project().builds.at(context_.document.build()).name);
    if (!write_text_pdf(path, tr("Run sheets: %1").arg(of),
                        run_sheets(now->campaign, *plan_, of, context_.units)))
        say(tr("%1 could not be written: choose another folder.").arg(path));
}

void PlanStation::remove() {
    context_.document.remove_entry(EntryKind::Plan, campaign_, tr("Campaign removed"));
}

void PlanStation::keep(const io::CampaignDraft& next, const QString& what) {
    if (const Entry* kept = record()) {
        Entry changed = session::campaign_record(next, kept->name, kept->revision);
        changed.when = kept->when;
        changed.who = kept->who;
        changed.text = kept->text;
        context_.document.set_entry(EntryKind::Plan, campaign_, changed, what);
    }
}

void PlanStation::run() {
    const auto now = draft();
    if (!now)
        return;
    plan::ForecastQuery query;
    query.limits = context_.document.limits();
    query.draws = draws_;
    const std::string hash = hash_of(*now);
    work_.start(
        [this, now = *now, query, hash, fits = now->use_fit ? fits_there() : std::vector<CarriedFit>()](
            const std::stop_token& stop, const Background::Post& post) {
            auto known = std::make_shared<session::KnownForecast>();
            known->hash = hash;
            known->candidates = io::candidates_of(now, fits);
            const auto progress = [&](double share) {
                post([this, share] { progress_->setValue(static_cast<int>(100 * share)); });
            };
            known->forecasts = plan::forecast(now.campaign, known->candidates, query, progress, stop);
            auto plan = std::make_shared<const plan::Plan>(
                plan::plan_runs(now.campaign, known->candidates, known->forecasts, stop));
            post([this, known, plan, text = io::campaign_text(now), factors = now.campaign.factors] {
                known_ = known;
                plan_ = plan;
                planned_ = text;
                planned_factors_ = factors;
            });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                say(tr("No plan. %1").arg(failure));
            refresher_->ask(); // an edit may have come meanwhile
            show();
        });
    show();
}

void PlanStation::plan_again() {
    const auto now = draft();
    const std::string text = io::campaign_text(*now);
    if (work_.running() || !known_ || planned_ == text || known_->hash != hash_of(*now))
        return;
    work_.start(
        [this, now = *now, known = known_, text](const std::stop_token& stop, const Background::Post& post) {
            auto plan = std::make_shared<const plan::Plan>(
                plan::plan_runs(now.campaign, known->candidates, known->forecasts, stop));
            post([this, plan, text] {
                plan_ = plan;
                planned_ = text;
            });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                say(tr("No plan. %1").arg(failure));
            show();
        });
}

QString PlanStation::help() const {
    return tr(
        "<h3>Plan</h3><p>A <b>campaign</b> is what could be changed (factors), with the parts of the shelf "
        "that fit "
        "as levels, the hours each change takes, and the days that are booked. <i>Opens too</i>: factors "
        "that cost "
        "nothing when this one is changed, as heads are off anyway. <i>Baseline</i> is the combination that "
        "all "
        "others are compared with; <i>mounted</i> is what sits on the rig now.</p>"
        "<p><b>Plan</b> (Alt+P) asks the full model for the limit of every combination, and for those near "
        "the best "
        "with their numbers moved within tolerances, alike wherever parts are alike. Left out is what cannot "
        "be run, "
        "what lies two deviations of the difference below the best, and what has less than one chance in a "
        "hundred. "
        "The rest is ordered by least rework: exactly for up to thirteen runs, by a search with a stated "
        "bound for "
        "more. The baseline comes first, last and between; no run is begun that does not end on its day.</p>"
        "<p><b>What came</b>: enter the limit of each run. It moves the belief of all combinations that "
        "share parts "
        "with it; the order is made anew, and <i>Settled</i> says when nothing that was not run is likely to "
        "be "
        "better. A baseline that moved, and a run that nothing believed allows for, are told: rank nothing "
        "until "
        "that is explained. Where a run of the build was calibrated and accepted, forecasts take what was "
        "fitted to the parts that a combination shares with it; plan anew.</p><p><b>Run sheets</b> print a "
        "page for each run. Edits can be undone (Ctrl+Z); "
        "a "
        "campaign can be saved as a file and planned on the command line (<i>bathmos-cli plan</i>).</p>"
        "<p><b>Caution.</b> A plan books hours, not safety: guards, interlock, the maker's instructions and "
        "a "
        "competent person decide whether a combination turns at all.</p>");
}

} // namespace bathmos::app
