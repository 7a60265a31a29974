// What a person does with a project, without a window: the file, the revision in hand, edits with undo,
// records, limits in force, target and range, and what follows from the train at once. Every edit is in the
// file before anybody is told.
#pragma once

#include "core/project/limit_sets.h"
#include "io/project/store.h"
#include "session/pack/answer.h"
#include "session/project/keeping.h"
#include "session/project/revision_judgement.h"
#include "session/results/results.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

namespace bathmos::session {

/// A lobe as a part, with the gauge's readings that it was made from and what the passes told.
struct GaugedPart {
    Part part;
    io::PackedTrace readings;
    std::map<std::string, double> numbers;
};

/// What has just changed; told in this order where several did.
enum class Event {
    Train,         ///< the train differs from before
    RevisionShown, ///< another revision is looked at, or another project
    Records,       ///< any record
    Judged,        ///< findings and clearances, by another motion
    Range,         ///< speeds to sweep, or the target
    Limits,        ///< the limit set in force
    File           ///< path, draft or what can be undone
};

class ProjectSession {
  public:
    using Told = std::function<void(Event)>;
    /// `draft_path`: file of the project that has no name yet; empty keeps it in memory.
    explicit ProjectSession(std::filesystem::path draft_path = {}, Told told = {});
    ~ProjectSession();
    ProjectSession(const ProjectSession&) = delete;
    ProjectSession& operator=(const ProjectSession&) = delete;

    // ---- the file
    bool has_train() const { return shown_ != 0; }
    /// File of the project; of a draft, the train file it came from or "".
    const std::filesystem::path& path() const { return path_; }
    /// The project has no name yet: it lies among the program's own files.
    bool draft() const { return draft_; }
    /// A draft with edits beyond what it began with.
    bool modified() const;
    /// Where the records are on disk, also of a draft; "" for none.
    std::filesystem::path file() const;
    std::string read_only_why() const;
    /// Opens a project, or a train file as a draft. What went well but not wholly (no copy beside the file)
    /// comes back as words. Throw InputError; all is then unchanged.
    std::string open(const std::filesystem::path& path);
    std::string set_new(const Train& train);
    /// Writes the whole project to a file and, for a draft, goes on there. Throws InputError.
    void keep_as(const std::filesystem::path& path);
    /// Writes the train in hand. Throws InputError.
    void export_train(const std::filesystem::path& path) const;
    /// A draft that an earlier run left behind is open again. False: there was none.
    bool reopen_draft();

    // ---- the train in hand
    const Train& train() const { return assembly_.train; }
    const Assembly& assembly() const { return assembly_; }
    /// Grows with every change of the train or of the limits; results carry the number that they belong to.
    std::uint64_t number() const { return number_; }
    const TrainFacts& facts() const { return facts_; }
    const RevisionJudgement& judgement() const { return judgement_; }
    /// The computed motion that clearances and bind margin are judged with; null: standing still.
    void judge_motion(std::shared_ptr<const Motion> motion);
    bool judged_by_motion() const { return motion_ != nullptr; }

    // ---- what it is judged by
    const LimitsInForce& limits() const { return limits_; }
    LimitSet limit_set() const { return limit_set_of(project()); }
    /// Another set, by edit, with its reason. Throws InputError for a set that is none.
    void set_limits(LimitSet set, const std::string& reason);
    double target_rpm() const { return target_rpm_; }
    void set_target(double rpm);
    const SpeedRange& range() const { return range_; }
    void set_range(const SpeedRange& range);
    /// What a sweep of the train in hand is made from.
    SweepInputs sweep_inputs() const { return {train(), range_, limits_}; }
    /// The same for another revision of the project.
    SweepInputs sweep_inputs(Id revision) const;
    /// Sweeps and reductions by their inputs, shared by all who ask; from any thread.
    Results& results() { return *results_; }

    // ---- records
    const Project& project() const;
    Id build() const;
    Id shown() const { return shown_; } ///< revision in hand
    Id compared() const { return compared_; }
    const Revision* compared_revision() const;
    const Engine* engine() const;
    io::PackedTrace trace(Id id) const { return store_->trace(id); }
    /// Keeps a photo or another file, by the hash of its content, which comes back; no step of its own.
    /// Throws InputError.
    std::string add_file(std::string_view bytes);
    std::string kept_file(const std::string& hash) const { return store_->file(hash); }
    const io::Store* store() const { return store_ ? &*store_ : nullptr; }

    /// Looks at another revision; an edit made there makes a branch. Throws InputError.
    void show(Id revision);
    void compare(Id revision); ///< 0: with nothing

    // ---- edits: each is undoable, and throws InputError, with nothing changed, where it cannot be kept
    /// Edits with the same non-empty key in a row become one step. They change the revision that the first of
    /// them made; any other makes a new revision.
    void edit(const Train& next, const std::string& what, const std::string& merge_key = {});
    void edit(const Assembly& next, const std::string& what, const std::string& merge_key = {});
    std::string undo_text() const; ///< "" when there is nothing
    std::string redo_text() const;
    void undo();
    void redo();

    Id add_part(const Part& part);
    void add_parts(const std::vector<Part>& parts); ///< as one edit
    /// Puts a maker's parts on the shelf, with their line in the log, as one edit.
    void take_answer(const Answer& answer, const Entry& note);
    void set_part(Id id, const Part& part);
    /// The same as a step of its own, or one with edits in a row under the same key.
    void set_part(Id id, const Part& part, const std::string& what, const std::string& merge_key);
    /// Refused while a revision carries it.
    void remove_part(Id id);
    void fit_part(Id id);
    /// Puts every part of the train that has no part of the shelf yet on the shelf.
    void shelve_parts();
    Id add_engine(const Engine& engine);
    void set_engine(Id id, const Engine& engine);
    void set_build(Id id, const Build& build);
    /// A build that begins with the train in hand, or a starter.
    void add_build(const Build& build, const Assembly& first);
    void name_revision(Id id, const std::string& name, const std::string& reason);
    void close_checks(EntryKind kind, const std::vector<std::string>& keys, const std::string& words,
                      const std::map<std::string, double>& numbers, const std::string& who);
    /// Keeps a run with its trace; the revision in hand is frozen by it.
    void add_rig_run(const std::string& name, const io::PackedTrace& trace, bool reversed);
    /// Keeps pulls with their readings, as one edit; each entry names its revision, which is frozen by it.
    void add_pulls(const std::string& file, const std::vector<NotedPull>& pulls);
    /// Adds, changes or takes out a record, as one edit. Raw readings stay in the file.
    Id add_entry(EntryKind kind, const Entry& entry, const std::string& what);
    /// Several of one kind, as one edit. Their numbers.
    std::vector<Id> add_entries(EntryKind kind, const std::vector<Entry>& entries, const std::string& what);
    void set_entry(EntryKind kind, Id id, const Entry& entry, const std::string& what);
    void remove_entry(EntryKind kind, Id id, const std::string& what);
    /// A verdict with the revision that it was decided on, as one edit.
    void decide(const Entry& verdict, const Assembly& next, const std::string& reason);
    /// A bench sheet that is taken over; where `next` differs from what is in hand, with a revision that
    /// carries it and that the sheet then belongs to, as one edit.
    void settle_sheet(Id id, Entry sheet, const Assembly& next);
    /// Puts gauged lobes on the shelf and keeps their readings, as one edit. The parts' numbers.
    std::vector<Id> add_lobes(const std::string& file, const std::vector<GaugedPart>& lobes);
    /// Keeps what was computed for a revision, the newest alone; no step of its own. The same again is not
    /// written.
    void note_prediction(const Prediction& prediction);
    const Prediction* prediction_of(Id revision) const;
    /// Whether a prediction was made from what is in force now: the revision's train, range, limits, this
    /// program.
    bool current(const Prediction& prediction) const;

  private:
    using Records = std::vector<std::pair<io::RecordKind, Id>>;
    void tell(Event event) const;
    /// A record with a revision made from the one in hand, as one edit; a sheet belongs to the new one.
    void keep_with_revision(EntryKind kind, Id record, Entry entry, const Assembly& next,
                            const std::string& what, const std::string& reason);
    void take(io::Store store, bool draft, const std::filesystem::path& path);
    std::string begin_draft(const Train& train, const std::filesystem::path& path);
    void remove_draft_files() const;
    void follow();
    void follow_limits();
    void follow_engine(bool anew);
    void take_train(const Assembly& next);
    void forget_asked(const std::vector<io::RecordChange>& changes);
    void judge();
    void require_store() const;
    void forget_prediction(Id revision);
    /// Changes copies of just these records and commits them: one text, one reading back, one write each.
    void commit_change(const std::string& what, const std::string& key, const Records& records,
                       const std::function<void(Project&)>& change);
    void commit(const std::string& what, const std::string& key, const std::vector<io::RecordChange>& changes,
                Project read);
    void after_commit();
    void step(bool undo);

    std::filesystem::path draft_path_, path_;
    Told told_;
    std::optional<io::Store> store_;
    bool draft_ = false;
    std::int64_t begun_edits_ = 0;
    Id shown_ = 0, compared_ = 0;
    Assembly assembly_;
    std::uint64_t number_ = 0;
    std::string open_key_; ///< merge key of the revision that is still being edited
    Id open_revision_ = 0;
    TrainFacts facts_;
    AskedChecks asked_;
    std::optional<PartRecord> record_; ///< of the parts' use; empty: to be counted anew
    RevisionJudgement judgement_;
    std::shared_ptr<const Motion> motion_;
    LimitsInForce limits_;
    LimitSet followed_limits_;
    double target_rpm_ = 0;
    SpeedRange range_;
    Id engine_ = 0; ///< whose target and range are in force
    std::unique_ptr<Results> results_ = std::make_unique<Results>();
};

} // namespace bathmos::session
