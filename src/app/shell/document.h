// The project in hand and the train that is looked at: its file, its edits with undo and redo, and what
// follows from the train at once. Every edit is in the file before `changed` is told.
#pragma once

#include "core/fit/fit_rules.h"
#include "io/project/store.h"

#include <QObject>
#include <QString>
#include <functional>
#include <memory>
#include <optional>

namespace bathmos::app {

/// A finding of the train in hand; one that was waived no longer marks predictions.
struct FoundFit {
    Finding finding;
    Id waiver = 0; ///< 0: stands
};

/// A lobe as a part, with the gauge's readings that it was made from and what the passes told.
struct GaugedPart {
    Part part;
    io::PackedTrace readings;
    std::map<std::string, double> numbers;
};

class Document : public QObject {
    Q_OBJECT
  public:
    /// `draft_path`: file of the project that has no name yet; empty keeps it in memory.
    explicit Document(QString draft_path = {}, QObject* parent = nullptr);
    ~Document() override;

    // ---- the file
    bool has_train() const { return shown_ != 0; }
    /// File of the project; of a draft, the train file it came from or "".
    QString path() const { return path_; }
    /// The project has no name yet: it lies among the program's own files.
    bool draft() const { return draft_; }
    /// A draft with edits beyond what it began with.
    bool modified() const;
    /// Where the records are on disk, also of a draft; "" for none.
    QString file() const;
    QString read_only_why() const;
    /// Opens a project, or a train file as a draft. Throw InputError; the document is then unchanged.
    void open(const QString& path);
    void set_new(const Train& train);
    /// Writes the whole project to a file and, for a draft, goes on there.
    void keep_as(const QString& path);
    /// Writes the train in hand. Throws InputError.
    void export_train(const QString& path) const;
    /// A draft that an earlier run left behind is open again. False: there was none.
    bool reopen_draft();

    // ---- the train in hand
    const Train& train() const { return assembly_.train; }
    const Assembly& assembly() const { return assembly_; }
    /// Grows with every change of the train; results carry the revision that they belong to.
    quint64 revision() const { return revision_; }
    /// What follows from the train; null while it has problems.
    const TrainFigures* figures() const { return figures_ ? &*figures_ : nullptr; }
    const RigidMotion* rigid() const { return rigid_ ? &*rigid_ : nullptr; }
    const std::vector<InputProblem>& problems() const { return problems_; }
    const std::vector<FoundFit>& findings() const { return findings_; }
    const std::vector<OpenCheck>& open_checks() const { return open_checks_; }
    /// Rules of stop findings that stand: they mark every prediction.
    std::vector<std::string> stops() const;
    /// The computed motion that clearances and bind margin are judged with; null: standing still.
    void judge_motion(std::shared_ptr<const Motion> motion);
    bool judged_by_motion() const { return motion_ != nullptr; }
    std::optional<Clearance> piston() const { return piston_; }
    std::optional<Clearance> other_valve() const { return other_valve_; }

    // ---- records
    const Project& project() const;
    Id build() const;
    Id shown() const { return shown_; } ///< revision in hand
    Id compared() const { return compared_; }
    const Revision* compared_revision() const;
    const Engine* engine() const;
    io::PackedTrace trace(Id id) const { return store_->trace(id); }

    /// Looks at another revision; an edit made there makes a branch.
    void show(Id revision);
    void compare(Id revision); ///< 0: with nothing

    // ---- edits: each is undoable, and refused with words where it cannot be kept
    /// Edits with the same non-empty key in a row become one step. They change the revision that the first of
    /// them made; any other makes a new revision.
    void edit(const Train& next, const QString& what, const QString& merge_key = {});
    void edit(const Assembly& next, const QString& what, const QString& merge_key = {});
    bool can_undo() const;
    QString undo_text() const;
    QString redo_text() const;
    void undo();
    void redo();

    Id add_part(const Part& part);
    void add_parts(const std::vector<Part>& parts); ///< as one edit
    void set_part(Id id, const Part& part);
    /// The same as a step of its own, or one with edits in a row under the same key.
    void set_part(Id id, const Part& part, const QString& what, const QString& merge_key);
    /// False, with words, while a revision carries it.
    bool remove_part(Id id);
    void fit_part(Id id);
    /// Puts every part of the train that has no part of the shelf yet on the shelf.
    void shelve_parts();
    Id add_engine(const Engine& engine);
    void set_engine(Id id, const Engine& engine);
    void set_build(Id id, const Build& build);
    /// A build that begins with the train in hand, or a starter.
    void add_build(const Build& build, const Assembly& first);
    void name_revision(Id id, const QString& name, const QString& reason);
    void close_checks(EntryKind kind, const std::vector<std::string>& keys, const QString& words,
                      const std::map<std::string, double>& numbers = {});
    /// Keeps a run with its trace; the revision in hand is frozen by it.
    void add_rig_run(const QString& name, const io::PackedTrace& trace, bool reversed);
    /// Keeps pulls with their readings, as one edit; each entry names its revision, which is frozen by it.
    /// False, with words, where they were not kept.
    bool add_pulls(const QString& file, const std::vector<std::pair<Entry, io::PackedTrace>>& pulls);
    /// Adds, changes or takes out a record, as one edit. Raw readings stay in the file.
    Id add_entry(EntryKind kind, const Entry& entry, const QString& what);
    /// A verdict with the revision that it was decided on, as one edit.
    void decide(const Entry& verdict, const Assembly& next, const QString& reason);
    void set_entry(EntryKind kind, Id id, const Entry& entry, const QString& what);
    void remove_entry(EntryKind kind, Id id, const QString& what);
    /// Puts gauged lobes on the shelf and keeps their readings, as one edit; empty where they were not kept.
    std::vector<Id> add_lobes(const QString& file, const std::vector<GaugedPart>& lobes);
    /// Keeps what was computed for the revision in hand; no step of its own.
    void note_prediction(const Prediction& prediction);
    const Prediction* prediction_of(Id revision) const;

  signals:
    void changed();         ///< the train differs from before
    void file_changed();    ///< path, draft or what can be undone
    void records_changed(); ///< any record
    void judged();          ///< findings and clearances, by another motion
    void revision_shown();  ///< another revision is looked at, or another project
    void refused(const QString& why);

  private:
    void take(io::Store store, bool draft, const QString& path);
    void forget_prediction(Id revision);
    void begin_draft(const Train& train, const QString& path);
    void remove_draft_files() const;
    void follow();
    void derive();
    void judge();
    void judge_findings();
    void judge_clearances();
    bool commit(const QString& what, const QString& key, const std::vector<io::RecordChange>& changes);
    bool commit_change(const QString& what, const QString& key,
                       const std::vector<std::pair<io::RecordKind, Id>>& records,
                       const std::function<void(Project&)>& change);
    /// The assembly as the file will hold it: numbers carry 12 digits there.
    static Assembly as_kept(const Assembly& assembly);
    template <class Step>
    void step(Step step);

    QString draft_path_, path_;
    std::optional<io::Store> store_;
    bool draft_ = false;
    std::int64_t begun_edits_ = 0;
    Id shown_ = 0, compared_ = 0;
    Assembly assembly_;
    quint64 revision_ = 0;
    QString open_key_; ///< merge key of the revision that is still being edited
    Id open_revision_ = 0;
    std::optional<RigidMotion> rigid_;
    std::optional<TrainFigures> figures_;
    std::vector<InputProblem> problems_;
    std::vector<OpenCheck> open_checks_;
    std::vector<FoundFit> findings_;
    std::shared_ptr<const Motion> motion_;
    std::optional<Clearance> piston_, other_valve_;
};

} // namespace bathmos::app
