#include "app/desk/rig_session.h"

#include "app/text/words.h"
#include "session/rig/rig_runs.h"

#include <QFile>
#include <QFileInfo>
#include <algorithm>

namespace bathmos::app {

namespace {
constexpr int kSettle_ms = 400; // after the last edit, so that typing does not reduce at every key

RigTrace read_trace(const RigImport& import, const ProgressSink& progress, const std::stop_token& stop) {
    if (import.stored)
        return io::rig_of(io::unpacked(*import.stored));
    const io::ReadOptions options{progress, stop};
    const std::string path = native(import.path);
    return io::has_no_columns(path) ? io::read_rig(path, options)
                                    : io::read_rig_csv(path, import.shape, import.columns, options);
}
} // namespace

RigSession::RigSession(Document& document, QObject* parent) : QObject(parent), document_(document) {
    delay_.setSingleShot(true);
    delay_.setInterval(kSettle_ms);
    connect(&delay_, &QTimer::timeout, this, &RigSession::rework);
    const auto aged = [this] {
        if (!trace_)
            return;
        delay_.start();
        emit changed(); // the run in hand is old now
    };
    connect(&document_, &Document::changed, this, aged);
    connect(&document_, &Document::limits_changed, this, aged);
    connect(&document_, &Document::revision_shown, this, &RigSession::show_stored);
    connect(&document_, &Document::records_changed, this, &RigSession::drop_undone);
}

RigSession::~RigSession() {
    work_.stop();
}

void RigSession::import(const QString& path) {
    RigImport wanted;
    wanted.path = path;
    if (!io::has_no_columns(native(path))) {
        wanted.shape = io::sniff_table(native(path));
        wanted.columns = io::guess_columns(wanted.shape);
    }
    import(wanted);
}

void RigSession::import(const RigImport& wanted) {
    wanted_ = wanted;
    start(true);
}

Id RigSession::run_id() const {
    const std::string name = QFileInfo(import_.path).fileName().toStdString();
    Id out = 0;
    for (const auto& [id, run] : document_.project().of(EntryKind::RigRun))
        if (run.name == name)
            out = id;
    return out;
}

bool RigSession::in_project() const {
    return run_id() != 0;
}

// Undo took the run out of the project: it is no longer shown.
void RigSession::drop_undone() {
    if (kept_ && run_ && state_ != State::Running && !in_project())
        clear();
}

void RigSession::show_stored() {
    clear();
    const Entry* last = session::last_run(document_.project(), document_.shown());
    if (!last)
        return;
    try {
        RigImport wanted;
        wanted.path = QString::fromStdString(last->name);
        wanted.reversed = last->numbers.contains("reversed");
        wanted.stored = std::make_shared<const io::PackedTrace>(document_.trace(last->traces.back()));
        import(wanted);
    } catch (const InputError& error) {
        failure_ = QString::fromUtf8(error.what());
        state_ = State::Failed;
        emit changed();
    }
}

void RigSession::rework() {
    if (trace_ && document_.rigid() && state_ != State::Running)
        start(false);
}

void RigSession::stop() {
    if (state_ != State::Running)
        return;
    work_.stop();
    state_ = run_ ? State::Ready : State::Empty;
    failure_ = tr("Stopped: the run in hand was not changed.");
    emit changed();
}

void RigSession::clear() {
    work_.stop();
    trace_.reset();
    run_.reset();
    import_ = {};
    kept_ = false;
    state_ = State::Empty;
    failure_.clear();
    emit changed();
}

void RigSession::start(bool read) {
    work_.stop();
    if (!document_.rigid()) {
        failure_ = tr("Open a train first: phase, scale and metrics are read against its model.");
        state_ = run_ ? State::Ready : State::Failed;
        emit changed();
        return;
    }
    state_ = State::Running;
    progress_ = 0;
    failure_.clear();
    const RigImport import = read ? wanted_ : import_;
    work_.start(
        [this, read, import, train = document_.train(), limits = document_.limits(),
         revision = document_.revision(), trace = trace_,
         &results = document_.results()](const std::stop_token& stop, const Background::Post& post) mutable {
            double last = -1;
            const auto progress = [&](double from, double share) {
                const double now = from + 0.5 * share;
                if (now - last < 0.01)
                    return;
                last = now;
                post([this, now] {
                    progress_ = now;
                    emit progress_changed();
                });
            };
            if (read)
                trace = std::make_shared<const RigTrace>(read_trace(
                    import, [&](double share) { progress(0, share); }, stop));
            RigOptions options;
            options.reversed = import.reversed;
            options.limits = limits;
            options.stop = stop;
            options.progress = [&](double share) { progress(0.5, share); };
            const auto run = results.reduction(*trace, train, options);
            std::shared_ptr<const io::PackedTrace> fresh;
            if (read && !import.stored)
                fresh = std::make_shared<const io::PackedTrace>(io::packed(io::trace_of(*trace)));
            post([this, run, trace, import, revision, fresh] {
                if (fresh)
                    document_.add_rig_run(QFileInfo(import.path).fileName(), *fresh, import.reversed);
                take(import, trace, run, revision);
            });
        },
        [this](const QString& failure) {
            if (failure.isEmpty())
                return;
            failure_ = failure;
            state_ = run_ ? State::Ready : State::Failed;
            emit changed();
        });
    emit changed();
}

void RigSession::take(const RigImport& import, std::shared_ptr<const RigTrace> trace,
                      std::shared_ptr<const RigRun> run, quint64 revision) {
    run_ = std::move(run);
    trace_ = std::move(trace);
    import_ = import;
    revision_ = revision;
    state_ = State::Ready;
    kept_ = in_project();
    if (old())
        delay_.start(); // the train was edited meanwhile
    emit changed();
}

} // namespace bathmos::app
