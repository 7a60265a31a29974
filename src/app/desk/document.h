// The project session as the window has it: its events as signals, what cannot be kept as words. It does
// nothing itself.
#pragma once

#include "app/text/words.h"
#include "session/project/project_session.h"

#include <QObject>
#include <QString>
#include <functional>

namespace bathmos::app {

using session::FoundFit;
using session::GaugedPart;

class Document : public QObject {
    Q_OBJECT
  public:
    /// `draft_path`: file of the project that has no name yet; empty keeps it in memory.
    explicit Document(QString draft_path = {}, QObject* parent = nullptr);

    session::ProjectSession& session() { return session_; }
    session::Results& results() { return session_.results(); }

    // ---- the file
    bool has_train() const { return session_.has_train(); }
    QString path() const;
    bool draft() const { return session_.draft(); }
    bool modified() const { return session_.modified(); }
    QString file() const;
    QString read_only_why() const { return phrase(session_.read_only_why()); }
    /// Throw InputError; the document is then unchanged.
    void open(const QString& path);
    void set_new(const Train& train);
    void keep_as(const QString& path);
    void export_train(const QString& path) const;
    bool reopen_draft() { return session_.reopen_draft(); }

    // ---- the train in hand
    const Train& train() const { return session_.train(); }
    const Assembly& assembly() const { return session_.assembly(); }
    /// Grows with every change of the train or the limits; results carry the revision that they belong to.
    quint64 revision() const { return session_.number(); }
    /// What follows from the train; null while it has problems.
    const TrainFigures* figures() const;
    const RigidMotion* rigid() const;
    const std::vector<InputProblem>& problems() const { return session_.facts().problems; }
    const std::vector<FoundFit>& findings() const { return session_.judgement().findings; }
    const std::vector<OpenCheck>& open_checks() const { return session_.judgement().open_checks; }
    std::vector<std::string> stops() const { return session_.judgement().stops(); }
    void judge_motion(std::shared_ptr<const Motion> motion) { session_.judge_motion(std::move(motion)); }
    bool judged_by_motion() const { return session_.judged_by_motion(); }
    std::optional<Clearance> piston() const { return session_.judgement().piston; }
    std::optional<Clearance> other_valve() const { return session_.judgement().other_valve; }

    // ---- what it is judged by
    const LimitsInForce& limits() const { return session_.limits(); }
    void set_limits(const LimitSet& set, const QString& reason);
    double target_rpm() const { return session_.target_rpm(); }
    void set_target(double rpm) { session_.set_target(rpm); }
    const SpeedRange& range() const { return session_.range(); }
    void set_range(const SpeedRange& range) { session_.set_range(range); }

    // ---- records
    const Project& project() const { return session_.project(); }
    Id build() const { return session_.build(); }
    Id shown() const { return session_.shown(); } ///< revision in hand
    Id compared() const { return session_.compared(); }
    const Revision* compared_revision() const { return session_.compared_revision(); }
    const Engine* engine() const { return session_.engine(); }
    io::PackedTrace trace(Id id) const { return session_.trace(id); }
    /// Throw InputError.
    std::string add_file(std::string_view bytes) { return session_.add_file(bytes); }
    std::string kept_file(const std::string& hash) const { return session_.kept_file(hash); }
    void show(Id revision);
    void compare(Id revision) { session_.compare(revision); } ///< 0: with nothing

    // ---- edits: each is undoable, and refused with words where it cannot be kept
    void edit(const Train& next, const QString& what, const QString& merge_key = {});
    void edit(const Assembly& next, const QString& what, const QString& merge_key = {});
    bool can_undo() const { return !session_.undo_text().empty(); }
    QString undo_text() const { return phrase(session_.undo_text()); }
    QString redo_text() const { return phrase(session_.redo_text()); }
    void undo();
    void redo();
    Id add_part(const Part& part); ///< 0 where it was not kept
    void add_parts(const std::vector<Part>& parts);
    void take_answer(const session::Answer& answer, const Entry& note);
    void set_part(Id id, const Part& part);
    void set_part(Id id, const Part& part, const QString& what, const QString& merge_key);
    bool remove_part(Id id);
    void fit_part(Id id);
    void shelve_parts();
    Id add_engine(const Engine& engine);
    void set_engine(Id id, const Engine& engine);
    void set_build(Id id, const Build& build);
    void add_build(const Build& build, const Assembly& first);
    void name_revision(Id id, const QString& name, const QString& reason);
    void close_checks(EntryKind kind, const std::vector<std::string>& keys, const QString& words,
                      const std::map<std::string, double>& numbers = {});
    void add_rig_run(const QString& name, const io::PackedTrace& trace, bool reversed);
    bool add_pulls(const QString& file, const std::vector<session::NotedPull>& pulls);
    Id add_entry(EntryKind kind, const Entry& entry, const QString& what);
    std::vector<Id> add_entries(EntryKind kind, const std::vector<Entry>& entries,
                                const QString& what); ///< empty where they were not kept
    void decide(const Entry& verdict, const Assembly& next, const QString& reason);
    bool settle_sheet(Id id, const Entry& sheet, const Assembly& next); ///< false where it was not kept
    void set_entry(EntryKind kind, Id id, const Entry& entry, const QString& what);
    void remove_entry(EntryKind kind, Id id, const QString& what);
    std::vector<Id> add_lobes(const QString& file, const std::vector<GaugedPart>& lobes);
    void note_prediction(const Prediction& prediction);
    const Prediction* prediction_of(Id revision) const { return session_.prediction_of(revision); }

  signals:
    void changed();         ///< the train, or the limits it is judged by, differ from before
    void file_changed();    ///< path, draft or what can be undone
    void records_changed(); ///< any record
    void judged();          ///< findings and clearances, by another motion
    void revision_shown();  ///< another revision is looked at, or another project
    void range_changed();   ///< speeds to sweep, or the target
    void limits_changed();  ///< the set in force
    void refused(const QString& why);
    void put_back();     ///< after a refusal: what was typed is not what is kept
    void copy_advised(); ///< the file is not the one that was opened: only a copy keeps what is here

  private:
    void pass_on(session::Event event);
    /// Runs an edit; what it refuses is told. False then.
    bool attempt(const std::function<void()>& edit, const QString& said = {});
    void tell_refused(const QString& why, const QString& said);

    session::ProjectSession session_;
};

} // namespace bathmos::app
