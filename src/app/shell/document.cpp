#include "app/shell/document.h"

#include "app/text/words.h"
#include "core/train/train_check.h"
#include "io/train/train_file.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <algorithm>

namespace bathmos::app {

namespace {

using io::RecordChange;
using io::RecordKind;

double highest_lift_m(const Motion& motion) {
    double out = *std::max_element(motion[Channel::Lift].begin(), motion[Channel::Lift].end());
    for (const std::vector<double>& cycle : motion.cloud_m)
        out = std::max(out, *std::max_element(cycle.begin(), cycle.end()));
    return out;
}

// "valve mass 92 -> 90 g", and how many more.
std::string reason_of(const Assembly& before, const Assembly& after, const QString& what) {
    const std::vector<Difference> changed = differences(before, after);
    if (changed.empty() || changed.size() > 6)
        return what.toStdString();
    std::string out = in_words(changed.front());
    if (changed.size() > 1)
        out += " (+" + std::to_string(changed.size() - 1) + ")";
    return out;
}

} // namespace

Document::Document(QString draft_path, QObject* parent)
    : QObject(parent), draft_path_(std::move(draft_path)) {}

// A draft in which nothing was done goes with the window; any other waits for the next one.
Document::~Document() {
    const bool idle = draft_ && !modified();
    store_.reset();
    if (idle)
        remove_draft_files();
}

// ---- the file

bool Document::modified() const {
    return draft_ && store_ && store_->edits() > begun_edits_;
}

QString Document::file() const {
    const std::string path = store_ ? store_->path().string() : ":memory:";
    return path == ":memory:" ? QString() : QFile::decodeName(QByteArray::fromStdString(path));
}

QString Document::read_only_why() const {
    return store_ ? words(store_->read_only_why()) : QString();
}

const Project& Document::project() const {
    static const Project none;
    return store_ ? store_->project() : none;
}

void Document::remove_draft_files() const {
    if (draft_path_.isEmpty())
        return;
    for (const char* end : {"", "-wal", "-shm", ".lock", ".backup-1", ".backup-2", ".backup-3"})
        QFile::remove(draft_path_ + QLatin1String(end));
}

void Document::take(io::Store store, bool draft, const QString& path) {
    store_.emplace(std::move(store));
    draft_ = draft;
    path_ = path;
    compared_ = 0;
    shown_ = 0;
    open_revision_ = 0;
    motion_.reset();
    begun_edits_ = store_->edits();
    follow();
    emit file_changed();
    emit revision_shown();
}

void Document::begin_draft(const Train& train, const QString& path) {
    if (draft_)
        store_.reset(); // so that its file can go
    remove_draft_files();
    if (!draft_path_.isEmpty())
        QDir().mkpath(QFileInfo(draft_path_).absolutePath());
    std::optional<io::Store> made;
    try {
        made.emplace(io::Store::create(draft_path_.isEmpty() ? std::string() : native(draft_path_)));
    } catch (const InputError& error) { // better in memory than not at all
        emit refused(
            tr("Edits cannot be kept safe: %1. Keep the project under a name soon.").arg(error.what()));
        made.emplace(io::Store::create({}));
    }
    io::Store& store = *made;
    Project p;
    p.engines[1].name = tr("Engine").toStdString();
    p.builds[1] = {train.name.empty() ? std::string("build") : train.name, 1, ValveSide::Intake, 0, 1, ""};
    p.revisions[1] = {1,
                      0,
                      "",
                      path.isEmpty() ? "a new train" : "from " + QFileInfo(path).fileName().toStdString(),
                      io::now_text(),
                      {train, {}}};
    store.note({{RecordKind::Engine, 1, record_text(p, RecordKind::Engine, 1)},
                {RecordKind::Build, 1, record_text(p, RecordKind::Build, 1)},
                {RecordKind::Revision, 1, record_text(p, RecordKind::Revision, 1)}});
    take(std::move(store), true, path);
}

void Document::open(const QString& path) {
    if (!io::looks_like_project(native(path))) {
        const Train train = io::read_train(native(path));
        begin_draft(train, QFileInfo(path).absoluteFilePath());
        return;
    }
    const QString whole = QFileInfo(path).absoluteFilePath();
    if (store_ && !draft_ && whole == path_)
        return;
    io::Store store = io::Store::open(native(whole));
    if (store.project().builds.empty())
        throw InputError({path.toStdString(), "", "holds no build", "import a train into it first"});
    const bool leaves_draft = draft_;
    const std::string trouble = store.backup_trouble();
    take(std::move(store), false, whole);
    if (leaves_draft)
        remove_draft_files();
    if (!trouble.empty())
        emit refused(tr("No copy could be put beside the project: %1").arg(words(trouble)));
}

void Document::set_new(const Train& train) {
    begin_draft(train, {});
}

bool Document::reopen_draft() {
    if (draft_path_.isEmpty() || !QFile::exists(draft_path_))
        return false;
    try {
        io::Store store = io::Store::open(native(draft_path_));
        if (store.edits() == 0 || store.project().builds.empty()) {
            { const io::Store gone = std::move(store); }
            remove_draft_files();
            return false;
        }
        take(std::move(store), true, {});
        begun_edits_ = 0;
        return true;
    } catch (const InputError&) {
        QFile::rename(draft_path_, draft_path_ + QStringLiteral(".damaged")); // not in the way, yet there
        return false;
    }
}

void Document::keep_as(const QString& path) {
    const QString whole = QFileInfo(path).absoluteFilePath();
    if (store_ && !draft_ && whole == path_)
        return;
    store_->save_copy(native(whole));
    if (!draft_)
        return;
    io::Store kept = io::Store::open(native(whole));
    const Id shown = shown_, compared = compared_;
    store_.emplace(std::move(kept));
    draft_ = false;
    path_ = whole;
    remove_draft_files();
    shown_ = shown;
    compared_ = compared;
    emit file_changed();
}

void Document::export_train(const QString& path) const {
    io::write_train(native(path), train());
}

// ---- the train in hand

// Takes over what the store holds now.
void Document::follow() {
    const Project& p = project();
    const bool there = p.revisions.contains(shown_);
    const Id build = there ? p.revisions.at(shown_).build : 0;
    if (p.builds.contains(build))
        shown_ = p.builds.at(build).head;
    else
        shown_ = p.builds.empty() ? 0 : p.builds.begin()->second.head;
    if (!p.revisions.contains(compared_) || compared_ == shown_)
        compared_ = 0;
    if (shown_ != 0) {
        const Assembly& next = p.revisions.at(shown_).assembly;
        if (!(next == assembly_) || revision_ == 0 || !there) {
            assembly_ = next;
            ++revision_;
            motion_.reset();
            derive();
            judge();
            emit changed();
            emit records_changed();
            return;
        }
    }
    judge();
    emit records_changed();
}

void Document::derive() {
    rigid_.reset();
    figures_.reset();
    problems_ = check_train(train());
    if (!problems_.empty())
        return;
    rigid_.emplace(train(), curve_of(train().lobe));
    figures_ = figures_of(train(), *rigid_);
}

void Document::judge() {
    open_checks_ = bathmos::open_checks(project(), shown_);
    judge_findings();
}

void Document::judge_findings() {
    findings_.clear();
    judge_clearances();
    if (!figures_)
        return;
    const auto build_at = project().builds.find(build());
    FitInput input{assembly_, *figures_, engine()};
    input.side = build_at == project().builds.end() ? ValveSide::Intake : build_at->second.side;
    input.piston = piston_;
    input.other_valve = other_valve_;
    input.open = open_checks_;
    if (motion_)
        input.peak_lift_m = highest_lift_m(*motion_);
    for (Finding& finding : fit_findings(input)) {
        const FitRule* rule = find_fit_rule(finding.rule);
        findings_.push_back({std::move(finding), rule ? waiver_of(project(), shown_, *rule) : 0});
    }
}

// With the motion at speed where there is one, else standing still; the other valve always standing still.
void Document::judge_clearances() {
    piston_.reset();
    other_valve_.reset();
    const auto at = project().builds.find(build());
    if (!engine() || !rigid_ || at == project().builds.end())
        return;
    const LiftOf lift = motion_ ? computed_lift(*motion_) : rigid_lift(*rigid_);
    piston_ = piston_clearance(*engine(), at->second, lift);
    for (const auto& [id, other] : project().builds) {
        if (other.engine != at->second.engine || other.side == at->second.side)
            continue;
        const auto head = project().revisions.find(other.head);
        if (head == project().revisions.end() || !check_train(head->second.assembly.train).empty())
            continue;
        const Train& train_b = head->second.assembly.train;
        const RigidMotion rigid_b(train_b, curve_of(train_b.lobe));
        const bool intake = at->second.side == ValveSide::Intake;
        const double head_a = train().valve.head_diameter_m, head_b = train_b.valve.head_diameter_m;
        other_valve_ =
            intake ? valve_clearance(*engine(), at->second, head_a, lift, other, head_b, rigid_lift(rigid_b))
                   : valve_clearance(*engine(), other, head_b, rigid_lift(rigid_b), at->second, head_a, lift);
        return;
    }
}

void Document::judge_motion(std::shared_ptr<const Motion> motion) {
    if (motion == motion_)
        return;
    motion_ = std::move(motion);
    judge_findings();
    emit judged();
}

std::vector<std::string> Document::stops() const {
    std::vector<std::string> out;
    for (const FoundFit& found : findings_)
        if (found.finding.severity == Severity::Stop && found.waiver == 0)
            out.push_back(found.finding.rule);
    return out;
}

// ---- records

Id Document::build() const {
    const auto at = project().revisions.find(shown_);
    return at == project().revisions.end() ? 0 : at->second.build;
}

const Revision* Document::compared_revision() const {
    const auto at = project().revisions.find(compared_);
    return at == project().revisions.end() ? nullptr : &at->second;
}

const Engine* Document::engine() const {
    const auto at = project().builds.find(build());
    if (at == project().builds.end())
        return nullptr;
    const auto found = project().engines.find(at->second.engine);
    return found == project().engines.end() ? nullptr : &found->second;
}

const Prediction* Document::prediction_of(Id revision) const {
    const Prediction* last = nullptr;
    for (const auto& [id, prediction] : project().predictions)
        if (prediction.revision == revision)
            last = &prediction;
    return last;
}

void Document::show(Id revision) {
    if (revision == shown_ || !project().revisions.contains(revision))
        return;
    open_revision_ = 0;
    store_->end_step();
    const Id of = project().revisions.at(revision).build;
    if (project().builds.at(of).head != revision && read_only_why().isEmpty()) {
        Project next = project();
        next.builds[of].head = revision;
        try {
            store_->note({{RecordKind::Build, of, record_text(next, RecordKind::Build, of)}});
        } catch (const InputError& error) {
            emit refused(words(error.what()));
            return;
        }
    }
    shown_ = revision;
    if (compared_ == shown_)
        compared_ = 0;
    assembly_ = project().revisions.at(revision).assembly;
    ++revision_;
    motion_.reset();
    derive();
    judge();
    emit changed();
    emit revision_shown();
    emit records_changed();
    emit file_changed();
}

void Document::compare(Id revision) {
    compared_ = revision == shown_ ? 0 : revision;
    emit records_changed();
}

// ---- edits

bool Document::commit(const QString& what, const QString& key, const std::vector<RecordChange>& changes) {
    try {
        store_->commit(what.toStdString(), key.toStdString(), changes);
    } catch (const InputError& error) {
        emit refused(tr("The edit was not kept. %1").arg(words(error.what())));
        follow();
        return false;
    }
    follow();
    emit file_changed();
    return true;
}

// Changes a copy of the project and commits the named records of it.
bool Document::commit_change(const QString& what, const QString& key,
                             const std::vector<std::pair<RecordKind, Id>>& records,
                             const std::function<void(Project&)>& change) {
    Project next = project();
    change(next);
    std::vector<RecordChange> changes;
    for (const auto& [kind, id] : records)
        changes.push_back({kind, id, record_text(next, kind, id)});
    return commit(what, key, changes);
}

// The assembly as the file will hold it: numbers carry 12 digits there.
Assembly Document::as_kept(const Assembly& assembly) {
    Project scratch;
    scratch.revisions[1].assembly = assembly;
    const std::string text = record_text(scratch, RecordKind::Revision, 1);
    try {
        put_record(scratch, RecordKind::Revision, 1, text);
    } catch (const InputError&) { // the commit will say what is wrong
        return assembly;
    }
    return scratch.revisions.at(1).assembly;
}

void Document::edit(const Train& next, const QString& what, const QString& merge_key) {
    Assembly assembly = assembly_;
    assembly.train = next;
    edit(assembly, what, merge_key);
}

void Document::edit(const Assembly& wanted, const QString& what, const QString& merge_key) {
    if (!store_)
        return;
    const Assembly next = as_kept(wanted);
    if (next == assembly_)
        return;
    const Id of = build();
    const bool goes_on = open_revision_ != 0 && open_revision_ == shown_ && !merge_key.isEmpty() &&
                         merge_key == open_key_ && !project().frozen(shown_) &&
                         project().children(shown_).empty();
    Id id = shown_;
    if (!goes_on) {
        store_->end_step();
        id = store_->new_id(RecordKind::Revision);
    }
    const Id parent = goes_on ? project().revisions.at(shown_).parent : shown_;
    const bool back_at_start = goes_on && next == project().revisions.at(parent).assembly;
    open_key_ = merge_key;
    open_revision_ = back_at_start ? 0 : id;
    if (goes_on)
        forget_prediction(id); // it was of the values before this key
    if (!commit_change(what, merge_key, {{RecordKind::Revision, id}, {RecordKind::Build, of}},
                       [&](Project& p) {
                           p.builds[of].head = back_at_start ? parent : id;
                           if (back_at_start)
                               p.revisions.erase(id);
                           else
                               p.revisions[id] = {of,
                                                  parent,
                                                  "",
                                                  reason_of(p.revisions.at(parent).assembly, next, what),
                                                  io::now_text(),
                                                  next};
                       }))
        open_revision_ = 0;
}

bool Document::can_undo() const {
    return store_ && !undo_text().isEmpty();
}
QString Document::undo_text() const {
    return store_ ? words(store_->undo_text()) : QString();
}
QString Document::redo_text() const {
    return store_ ? words(store_->redo_text()) : QString();
}

template <class Step>
void Document::step(Step step) {
    if (!store_)
        return;
    open_revision_ = 0;
    try {
        step();
    } catch (const InputError& error) {
        emit refused(words(error.what()));
    }
    follow();
    emit file_changed();
}
void Document::undo() {
    step([this] { store_->undo(); });
}
void Document::redo() {
    step([this] { store_->redo(); });
}

void Document::forget_prediction(Id revision) {
    std::vector<RecordChange> gone;
    for (const auto& [id, prediction] : project().predictions)
        if (prediction.revision == revision)
            gone.push_back({RecordKind::Prediction, id, ""});
    try {
        if (!gone.empty())
            store_->note(gone);
    } catch (const InputError& error) {
        emit refused(words(error.what()));
    }
}

void Document::note_prediction(const Prediction& prediction) {
    if (!store_ || !read_only_why().isEmpty())
        return;
    Id id = 0;
    for (const auto& [number, known] : project().predictions)
        if (known.revision == prediction.revision)
            id = number;
    if (id != 0) { // the newest for a revision; the same again is not written
        Prediction same = project().predictions.at(id);
        same.when = prediction.when;
        if (same == prediction)
            return;
    } else {
        id = store_->new_id(RecordKind::Prediction);
    }
    Project next;
    next.predictions[id] = prediction;
    try {
        store_->note({{RecordKind::Prediction, id, record_text(next, RecordKind::Prediction, id)}});
        emit records_changed();
    } catch (const InputError& error) {
        emit refused(words(error.what()));
    }
}

} // namespace bathmos::app
