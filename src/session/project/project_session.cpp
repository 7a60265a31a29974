#include "session/project/project_session.h"

#include "io/train/train_file.h"
#include "session/results/predictions.h"
#include "session/results/sweep_range.h"

#include <fmt/format.h>

namespace bathmos::session {

namespace fs = std::filesystem;

namespace {

using io::RecordChange;
using io::RecordKind;

// "valve mass 92 -> 90 g", and how many more.
std::string reason_of(const Assembly& before, const Assembly& after, const std::string& what) {
    const std::vector<Difference> changed = differences(before, after);
    if (changed.empty() || changed.size() > 6)
        return what;
    std::string out = in_words(changed.front());
    if (changed.size() > 1)
        out += fmt::format(" (+{})", changed.size() - 1);
    return out;
}

RecordChange change_of(const Project& project, RecordKind kind, Id id) {
    return {kind, id, io::record_text(project, kind, id)};
}

} // namespace

ProjectSession::ProjectSession(fs::path draft_path, Told told)
    : draft_path_(std::move(draft_path)), told_(std::move(told)) {}

// A draft in which nothing was done goes with the program; any other waits for the next one.
ProjectSession::~ProjectSession() {
    const bool idle = draft_ && !modified();
    store_.reset();
    if (idle)
        remove_draft_files();
}

void ProjectSession::tell(Event event) const {
    if (told_)
        told_(event);
}

// ---- the file

bool ProjectSession::modified() const {
    return draft_ && store_ && store_->edits() > begun_edits_;
}

fs::path ProjectSession::file() const {
    const fs::path path = store_ ? store_->path() : fs::path(":memory:");
    return path == ":memory:" ? fs::path() : path;
}

std::string ProjectSession::read_only_why() const {
    return store_ ? store_->read_only_why() : std::string();
}

const Project& ProjectSession::project() const {
    static const Project none;
    return store_ ? store_->project() : none;
}

void ProjectSession::require_store() const {
    if (!store_)
        throw InputError({"", "project", "none is open", "open or start one first"});
    if (!read_only_why().empty())
        throw InputError(
            {file().string(), "", read_only_why(), "save a copy to work on, or close the other one"});
}

void ProjectSession::remove_draft_files() const {
    if (draft_path_.empty())
        return;
    std::error_code none;
    for (const char* end : {"", "-wal", "-shm", ".lock", ".backup-1", ".backup-2", ".backup-3"})
        fs::remove(draft_path_.string() + end, none);
}

void ProjectSession::take(io::Store store, bool draft, const fs::path& path) {
    store_.emplace(std::move(store));
    draft_ = draft;
    path_ = path;
    compared_ = 0;
    shown_ = 0;
    open_revision_ = 0;
    engine_ = 0;
    motion_.reset();
    asked_.clear();
    record_.reset();
    begun_edits_ = store_->edits();
    follow();
    tell(Event::File);
    tell(Event::RevisionShown);
}

// A project of one engine, one build and this train. What could not be done (keeping it safe) comes back as
// words.
std::string ProjectSession::begin_draft(const Train& train, const fs::path& path) {
    if (draft_)
        store_.reset(); // so that its file can go
    remove_draft_files();
    std::string trouble;
    std::optional<io::Store> made;
    try {
        std::error_code none; // told by create, with words
        if (!draft_path_.empty())
            fs::create_directories(draft_path_.parent_path(), none);
        made.emplace(io::Store::create(draft_path_));
    } catch (const InputError& error) { // better in memory than not at all
        trouble =
            fmt::format("Edits cannot be kept safe: {}. Keep the project under a name soon.", error.what());
        made.emplace(io::Store::create({}));
    }
    Project p;
    p.engines[1].name = "Engine";
    p.builds[1] = {train.name.empty() ? std::string("build") : train.name, 1, ValveSide::Intake, 0, 1, ""};
    p.revisions[1] = {
        1,          0, "", path.empty() ? "a new train" : "from " + path.filename().string(), io::now_text(),
        {train, {}}};
    made->note({change_of(p, RecordKind::Engine, 1), change_of(p, RecordKind::Build, 1),
                change_of(p, RecordKind::Revision, 1)});
    take(std::move(*made), true, path);
    return trouble;
}

std::string ProjectSession::open(const fs::path& path) {
    const fs::path whole = fs::absolute(path);
    if (!io::looks_like_project(path)) {
        const Train train = io::read_train(path);
        return begin_draft(train, whole);
    }
    if (store_ && !draft_ && whole == path_)
        return {};
    io::Store store = io::Store::open(whole);
    if (store.project().builds.empty())
        throw InputError({path.string(), "", "holds no build", "import a train into it first"});
    in_force(limit_set_of(store.project())); // refuses limits that cannot be judged by
    const bool leaves_draft = draft_;
    std::string notes;
    for (const std::string& note : store.notes())
        notes += (notes.empty() ? "" : "\n") + note;
    take(std::move(store), false, whole);
    if (leaves_draft)
        remove_draft_files();
    return notes;
}

std::string ProjectSession::set_new(const Train& train) {
    return begin_draft(train, {});
}

bool ProjectSession::reopen_draft() {
    std::error_code none;
    if (draft_path_.empty() || !fs::exists(draft_path_, none))
        return false;
    try {
        io::Store store = io::Store::open(draft_path_);
        if (store.edits() == 0 || store.project().builds.empty()) {
            { const io::Store gone = std::move(store); }
            remove_draft_files();
            return false;
        }
        take(std::move(store), true, {});
        begun_edits_ = 0;
        return true;
    } catch (const InputError&) {
        fs::rename(draft_path_, draft_path_.string() + ".damaged", none); // not in the way, yet there
        return false;
    }
}

void ProjectSession::keep_as(const fs::path& path) {
    const fs::path whole = fs::absolute(path);
    if (store_ && !draft_ && whole == path_)
        return;
    store_->save_copy(whole);
    if (!draft_)
        return;
    io::Store kept = io::Store::open(whole);
    const Id shown = shown_, compared = compared_;
    store_.emplace(std::move(kept));
    draft_ = false;
    path_ = whole;
    remove_draft_files();
    shown_ = shown;
    compared_ = compared;
    tell(Event::File);
}

void ProjectSession::export_train(const fs::path& path) const {
    io::write_train(path, train());
}

// ---- the train in hand

// Takes over what the store holds now.
void ProjectSession::follow() {
    const Project& p = project();
    const bool there = p.revisions.contains(shown_);
    const Id build_now = there ? p.revisions.at(shown_).build : 0;
    if (p.builds.contains(build_now))
        shown_ = p.builds.at(build_now).head;
    else
        shown_ = p.builds.empty() ? 0 : p.builds.begin()->second.head;
    if (!p.revisions.contains(compared_) || compared_ == shown_)
        compared_ = 0;
    follow_limits();
    if (shown_ != 0) {
        const Assembly& next = p.revisions.at(shown_).assembly;
        if (!(next == assembly_) || number_ == 0 || !there) {
            take_train(next);
            follow_engine(!there);
            tell(Event::Train);
            tell(Event::Records);
            return;
        }
    }
    judge();
    tell(Event::Records);
}

void ProjectSession::take_train(const Assembly& next) {
    assembly_ = next;
    ++number_;
    motion_.reset();
    facts_ = facts_of(train());
    judge();
}

// Another engine has another target and speeds of its own to sweep; so has another project.
void ProjectSession::follow_engine(bool anew) {
    const auto at = project().builds.find(build());
    const Id now = at == project().builds.end() ? 0 : at->second.engine;
    if (now == engine_ && !anew)
        return;
    engine_ = now;
    target_rpm_ = engine() ? engine()->target_rpm : 0;
    range_ = usual_range(facts_.figures ? &*facts_.figures : nullptr, target_rpm_);
    tell(Event::Range);
}

void ProjectSession::follow_limits() {
    const LimitSet set = limit_set();
    if (set == followed_limits_)
        return;
    followed_limits_ = set;
    limits_ = in_force(set);
    ++number_; // all results are by other limits now
    tell(Event::Limits);
}

void ProjectSession::forget_asked(const std::vector<RecordChange>& changes) {
    for (const RecordChange& change : changes)
        if (change.kind == RecordKind::Revision)
            asked_.forget(change.id);
        else if (change.kind == RecordKind::Log || change.kind == RecordKind::RigRun ||
                 change.kind == RecordKind::DynoPull || change.kind == RecordKind::Sheet)
            record_.reset();
}

void ProjectSession::judge() {
    if (!record_)
        record_ = part_record(project());
    judgement_ = judge_revision(project(), shown_, facts_, motion_.get(), &asked_, &*record_);
}

void ProjectSession::judge_motion(std::shared_ptr<const Motion> motion) {
    if (motion == motion_)
        return;
    motion_ = std::move(motion);
    judge();
    tell(Event::Judged);
}

// ---- what it is judged by

void ProjectSession::set_limits(LimitSet set, const std::string& reason) {
    require_store();
    in_force(set);
    set.reason = reason;
    set.when = io::now_text();
    const Id id = store_->new_id(RecordKind::LimitSet);
    commit_change("Limits: " + set.name, {}, {{RecordKind::LimitSet, id}},
                  [&](Project& p) { p.limits[id] = set; });
}

void ProjectSession::set_target(double rpm) {
    if (rpm == target_rpm_)
        return;
    target_rpm_ = rpm;
    tell(Event::Range);
}

void ProjectSession::set_range(const SpeedRange& range) {
    if (range == range_)
        return;
    range_ = range;
    tell(Event::Range);
}

SweepInputs ProjectSession::sweep_inputs(Id revision) const {
    return {project().revisions.at(revision).assembly.train, range_, limits_};
}

// ---- records

Id ProjectSession::build() const {
    const auto at = project().revisions.find(shown_);
    return at == project().revisions.end() ? 0 : at->second.build;
}

const Revision* ProjectSession::compared_revision() const {
    const auto at = project().revisions.find(compared_);
    return at == project().revisions.end() ? nullptr : &at->second;
}

const Engine* ProjectSession::engine() const {
    const auto at = project().builds.find(build());
    if (at == project().builds.end())
        return nullptr;
    const auto found = project().engines.find(at->second.engine);
    return found == project().engines.end() ? nullptr : &found->second;
}

const Prediction* ProjectSession::prediction_of(Id revision) const {
    return newest_prediction(project(), revision);
}

bool ProjectSession::current(const Prediction& prediction) const {
    return project().revisions.contains(prediction.revision) &&
           prediction.hash == hash_of(sweep_inputs(prediction.revision));
}

void ProjectSession::show(Id revision) {
    if (revision == shown_ || !project().revisions.contains(revision))
        return;
    open_revision_ = 0;
    store_->end_step();
    const Id of = project().revisions.at(revision).build;
    if (project().builds.at(of).head != revision && read_only_why().empty()) {
        Project next = io::records_of(project(), {{RecordKind::Build, of}});
        next.builds[of].head = revision;
        store_->note({change_of(next, RecordKind::Build, of)});
    }
    shown_ = revision;
    if (compared_ == shown_)
        compared_ = 0;
    take_train(project().revisions.at(revision).assembly);
    follow_engine(false);
    tell(Event::Train);
    tell(Event::RevisionShown);
    tell(Event::Records);
    tell(Event::File);
}

void ProjectSession::compare(Id revision) {
    compared_ = revision == shown_ ? 0 : revision;
    tell(Event::Records);
}

// ---- edits

void ProjectSession::after_commit() {
    follow();
    tell(Event::File);
}

void ProjectSession::commit(const std::string& what, const std::string& key,
                            const std::vector<RecordChange>& changes, Project read) {
    try {
        store_->commit(what, key, changes, std::move(read));
    } catch (const InputError&) {
        follow();
        throw;
    }
    forget_asked(changes);
    after_commit();
}

void ProjectSession::commit_change(const std::string& what, const std::string& key, const Records& records,
                                   const std::function<void(Project&)>& change) {
    Project touched = io::records_of(project(), records), read;
    change(touched);
    std::vector<RecordChange> changes;
    for (const auto& [kind, id] : records) {
        changes.push_back(change_of(touched, kind, id));
        if (!changes.back().text.empty())
            put_record(read, kind, id, changes.back().text);
    }
    commit(what, key, changes, std::move(read));
}

void ProjectSession::edit(const Train& next, const std::string& what, const std::string& merge_key) {
    edit(Assembly{next, assembly_.parts}, what, merge_key);
}

void ProjectSession::edit(const Assembly& wanted, const std::string& what, const std::string& merge_key) {
    require_store();
    const bool goes_on = open_revision_ != 0 && open_revision_ == shown_ && !merge_key.empty() &&
                         merge_key == open_key_ && !project().frozen(shown_) &&
                         project().children(shown_).empty();
    const Id of = build(), parent = goes_on ? project().revisions.at(shown_).parent : shown_;
    const Id id = goes_on ? shown_ : store_->next_id(RecordKind::Revision);
    Project made, read; // what the file will hold: numbers carry 12 digits there
    made.revisions[id] = {
        of,    parent, "", reason_of(project().revisions.at(parent).assembly, wanted, what), io::now_text(),
        wanted};
    std::vector<RecordChange> changes{change_of(made, RecordKind::Revision, id)};
    put_record(read, RecordKind::Revision, id, changes.front().text);
    const Assembly& next = read.revisions.at(id).assembly;
    if (next == assembly_)
        return;
    if (!goes_on)
        store_->end_step();
    const bool back_at_start = goes_on && next == project().revisions.at(parent).assembly;
    open_key_ = merge_key;
    open_revision_ = back_at_start ? 0 : id;
    if (goes_on)
        forget_prediction(id); // it was of the values before this key
    if (back_at_start) {
        changes.front().text.clear();
        read.revisions.clear();
    }
    Project builds = io::records_of(project(), {{RecordKind::Build, of}});
    builds.builds[of].head = back_at_start ? parent : id;
    changes.push_back(change_of(builds, RecordKind::Build, of));
    put_record(read, RecordKind::Build, of, changes.back().text);
    try {
        commit(what, merge_key, changes, std::move(read));
    } catch (const InputError&) {
        open_revision_ = 0;
        throw;
    }
}

std::string ProjectSession::undo_text() const {
    return store_ ? store_->undo_text() : std::string();
}
std::string ProjectSession::redo_text() const {
    return store_ ? store_->redo_text() : std::string();
}

void ProjectSession::step(bool undo) {
    if (!store_)
        return;
    open_revision_ = 0;
    try {
        forget_asked(undo ? store_->undo() : store_->redo());
    } catch (const InputError&) {
        after_commit();
        throw;
    }
    after_commit();
}
void ProjectSession::undo() {
    step(true);
}
void ProjectSession::redo() {
    step(false);
}

void ProjectSession::forget_prediction(Id revision) {
    std::vector<RecordChange> gone;
    for (const auto& [id, prediction] : project().predictions)
        if (prediction.revision == revision)
            gone.push_back({RecordKind::Prediction, id, ""});
    if (!gone.empty())
        store_->note(gone);
}

void ProjectSession::note_prediction(const Prediction& prediction) {
    if (!store_ || !read_only_why().empty())
        return;
    Id id = 0;
    for (const auto& [known_id, known] : project().predictions)
        if (known.revision == prediction.revision)
            id = known_id;
    if (id != 0) {
        Prediction same = project().predictions.at(id);
        same.when = prediction.when;
        if (same == prediction)
            return;
    } else {
        id = store_->new_id(RecordKind::Prediction);
    }
    Project next;
    next.predictions[id] = prediction;
    store_->note({change_of(next, RecordKind::Prediction, id)});
    tell(Event::Records);
}

} // namespace bathmos::session
