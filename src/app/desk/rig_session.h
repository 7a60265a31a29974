// The rig run in hand: reads and reduces in the background, again when the train changes, as phase and
// metrics depend on it.
#pragma once

#include "app/desk/background.h"
#include "app/desk/document.h"
#include "core/rig/rig_run.h"
#include "io/rig/rig_file.h"

#include <QObject>
#include <QTimer>
#include <memory>
#include <optional>

namespace bathmos::app {

/// How a trace is to be read: file and, for text, the mapping of its columns.
struct RigImport {
    QString path;
    io::TableShape shape;   ///< unused for HDF5
    io::RigColumns columns; ///< unused for HDF5
    bool reversed = false;
    std::shared_ptr<const io::PackedTrace> stored{}; ///< instead of a file: a run of the project
};

class RigSession : public QObject {
    Q_OBJECT
  public:
    enum class State { Empty, Running, Ready, Failed };

    explicit RigSession(Document& document, QObject* parent = nullptr);
    ~RigSession() override;

    State state() const { return state_; }
    const RigRun* run() const { return run_.get(); }
    std::shared_ptr<const RigRun> shared_run() const { return run_; }
    /// The run's number in the project; 0 where it is not kept.
    Id run_id() const;
    /// The run shown was reduced with an earlier state of the train.
    bool old() const { return run_ && revision_ != document_.revision(); }
    QString failure() const { return failure_; }
    QString path() const { return import_.path; }
    double progress() const { return progress_; }

    /// Starts reading; the run in hand stays until the new one is ready, also when it fails or is stopped.
    void import(const RigImport& import);
    /// Import with guessed columns. Throws InputError if the file's head cannot be read.
    void import(const QString& path);
    void stop();
    void clear();
    /// Shows the last run that was made with the revision in hand; nothing where there is none.
    void show_stored();

  signals:
    void changed();
    void progress_changed();

  private:
    void start(bool read);
    void take(const RigImport& import, std::shared_ptr<const RigTrace> trace,
              std::shared_ptr<const RigRun> run, quint64 revision);
    void rework();
    void drop_undone();
    bool in_project() const;

    Document& document_;
    RigImport import_, wanted_;
    std::shared_ptr<const RigTrace> trace_;
    std::shared_ptr<const RigRun> run_;
    bool kept_ = false; ///< the project holds the run shown
    quint64 revision_ = 0;
    State state_ = State::Empty;
    double progress_ = 0;
    QString failure_;
    QTimer delay_;
    Background work_;
};

} // namespace bathmos::app
