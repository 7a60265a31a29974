#include "app/desk/calibration_runner.h"

#include "app/text/words.h"

namespace bathmos::app {

namespace {
constexpr double kFitShare = 0.85; // of the whole, the rest is limit and reading
} // namespace

CalibrationRunner::CalibrationRunner(Document& document, RigSession& rig, QObject* parent)
    : QObject(parent), document_(document), rig_(rig) {
    const auto aged = [this] {
        if (running() && old())
            stop();
        if (!rig_.run() && !running()) {
            found_.reset();
            reading_.reset();
            change_.reset();
        }
        emit changed();
    };
    connect(&rig_, &RigSession::changed, this, aged);
    connect(&document_, &Document::changed, this, aged);
}

CalibrationRunner::~CalibrationRunner() {
    work_.stop();
}

bool CalibrationRunner::old() const {
    return number_ != document_.revision() || run_ != rig_.run_id();
}

Id CalibrationRunner::revision_of(std::size_t train) const {
    if (train == 0)
        return shown_;
    const auto& runs = document_.project().of(EntryKind::RigRun);
    const auto run = runs.find(other_run_);
    return run == runs.end() ? 0 : run->second.revision;
}

// All that a worker needs, taken out of the project at once.
struct CalibrationRunner::Job {
    session::Results* results = nullptr;
    Train train;
    std::shared_ptr<const RigRun> run;
    Id run_id = 0, revision = 0;
    std::vector<std::string> free;
    LimitQuestion question;
    std::optional<Train> other;
    Id other_run = 0;
    std::shared_ptr<const io::PackedTrace> other_trace{};
    bool other_reversed = false;
};

// Empty, with failure_ said, where the other run cannot be read.
std::optional<CalibrationRunner::Job> CalibrationRunner::job(const std::vector<std::string>& free,
                                                             Id other_run) {
    Job out{&document_.results(),
            document_.train(),
            rig_.shared_run(),
            rig_.run_id(),
            document_.shown(),
            free,
            {document_.range(), document_.limits(), {}},
            {},
            other_run};
    if (other_run == 0)
        return out;
    const Project& project = document_.project();
    const auto kept = project.of(EntryKind::RigRun).find(other_run);
    if (kept == project.of(EntryKind::RigRun).end()) {
        failure_ = tr("run %1 is no longer in the project; choose another one").arg(other_run);
        return std::nullopt;
    }
    try {
        const Entry& entry = kept->second;
        out.other = project.revisions.at(entry.revision).assembly.train;
        out.other_reversed = entry.numbers.contains("reversed");
        out.other_trace = std::make_shared<const io::PackedTrace>(document_.trace(entry.traces.back()));
        return out;
    } catch (const InputError& error) {
        failure_ = QString::fromUtf8(error.what());
        return std::nullopt;
    }
}

void CalibrationRunner::start(const std::vector<std::string>& free, Id other_run) {
    work_.stop();
    if (!rig_.run() || rig_.old() || !document_.rigid())
        return;
    found_.reset();
    reading_.reset();
    change_.reset();
    failure_.clear();
    progress_ = 0;
    believed_ = document_.train();
    number_ = document_.revision();
    run_ = rig_.run_id();
    other_run_ = other_run;
    shown_ = document_.shown();
    if (auto wanted = job(free, other_run))
        work_.start([this, job = std::move(*wanted)](const std::stop_token& stop,
                                                     const Background::Post& post) { work(job, stop, post); },
                    [this](const QString& failure) {
                        failure_ = failure;
                        emit changed();
                    });
    emit changed();
}

// On the worker's thread: what it needs of the window it posts.
void CalibrationRunner::work(const Job& job, const std::stop_token& stop, const Background::Post& post) {
    const auto progress = [&](double share) {
        post([this, share] {
            progress_ = share;
            emit progress_changed();
        });
    };
    CalibrationQuery query{job.train, {job.run.get()}, job.free};
    std::shared_ptr<const RigRun> other;
    if (job.other) {
        RigOptions options;
        options.reversed = job.other_reversed;
        options.limits = job.question.limits;
        options.stop = stop;
        other = job.results->reduction(io::rig_of(io::unpacked(*job.other_trace)), *job.other, options);
        query.other = OtherRevision{*job.other, {other.get()}};
    }
    CalibrationWatch watch;
    watch.stop = stop;
    watch.progress = [&](double share) { progress(kFitShare * share); };
    watch.estimate = [&](const Calibration& estimate) {
        post([this, found = std::make_shared<const Calibration>(estimate)] { take(found); });
    };
    const auto found = std::make_shared<const Calibration>(calibrate(query, watch));
    post([this, found] { take(found); });
    LimitQuestion question = job.question;
    question.stop = stop;
    const CalibratedLimit limit = limit_of(*found, query.runs, question.limits, {{}, {}, stop});
    std::optional<session::ToldChange> change;
    if (job.other)
        change = {effect_of_change(query, *found, question.limits, stop), job.other_run};
    const auto reading = std::make_shared<const RunReading>(read_run(
        *found, limit, question, [&](double share) { progress(kFitShare + (1 - kFitShare) * share); }));
    post([this, reading, change, run = job.run_id, revision = job.revision] {
        finish(reading, change, run, revision);
    });
}

void CalibrationRunner::take(std::shared_ptr<const Calibration> found) {
    found_ = std::move(found);
    emit changed();
}

void CalibrationRunner::finish(std::shared_ptr<const RunReading> reading,
                               std::optional<session::ToldChange> change, Id run, Id revision) {
    reading_ = std::move(reading);
    change_ = std::move(change);
    if (run && document_.read_only_why().isEmpty()) {
        Entry record =
            session::calibration_record(*found_, *reading_, revision, run, document_.limits().name);
        if (change_)
            session::note_change(record, *change_);
        document_.add_entry(EntryKind::Calibration, record,
                            change_ ? tr("Calibrated to runs %1 and %2").arg(run).arg(change_->other_run)
                                    : tr("Calibrated to run %1").arg(run));
    }
    emit changed();
}

void CalibrationRunner::stop() {
    if (!running())
        return;
    work_.stop();
    if (!reading_)
        found_.reset(); // an estimate is no answer
    failure_ = tr("stopped: nothing was changed");
    emit changed();
}

void CalibrationRunner::accept(const std::set<std::string>& keys) {
    if (!found_ || !reading_ || keys.empty())
        return;
    document_.edit(accepted(*found_, believed_, keys), words(session::fitted_to(document_.project(), run_)));
}

} // namespace bathmos::app
