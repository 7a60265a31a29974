// The train in hand fitted to the run in hand, in the background: the first answer in seconds, better ones
// as they come, at the end the limit and the record.
#pragma once

#include "app/desk/background.h"
#include "app/desk/rig_session.h"
#include "session/rig/run_record.h"

#include <optional>
#include <set>

namespace bathmos::app {

class CalibrationRunner : public QObject {
    Q_OBJECT
  public:
    CalibrationRunner(Document& document, RigSession& rig, QObject* parent = nullptr);
    ~CalibrationRunner() override;

    /// The newest answer, or null; an estimate while running().
    const Calibration* calibration() const { return found_.get(); }
    /// What it says of the causes; null until the end.
    const RunReading* reading() const { return reading_.get(); }
    /// The train that was fitted, as believed.
    const Train& believed() const { return believed_; }
    /// The train was edited, or another run is shown, since.
    bool old() const;
    bool running() const { return work_.running(); }
    double progress() const { return progress_; }
    QString failure() const { return failure_; }

    /// What the change from the other revision did; null where there was none, and until the end.
    const ChangeEffect* change() const { return change_ ? &change_->effect : nullptr; }
    /// The other revision's run that was fitted together with this one; 0 for none.
    Id other_run() const { return other_run_; }
    /// The revision that was fitted: this one (0), or the other (1; 0 where its run is gone).
    Id revision_of(std::size_t train) const;

    /// Starts; nothing without a run. `free`: keys of the numbers that may move, empty for all usual ones;
    /// `other_run`: a kept run of another revision to be fitted together, 0 for none.
    void start(const std::vector<std::string>& free, Id other_run = 0);
    void stop();
    /// A new revision with just these numbers as fitted.
    void accept(const std::set<std::string>& keys);

  signals:
    void changed();
    void progress_changed();

  private:
    struct Job;
    std::optional<Job> job(const std::vector<std::string>& free, Id other_run);
    void work(const Job& job, const std::stop_token& stop, const Background::Post& post);
    void take(std::shared_ptr<const Calibration> found);
    void finish(std::shared_ptr<const RunReading> reading, std::optional<session::ToldChange> change, Id run,
                Id revision);

    Document& document_;
    RigSession& rig_;
    std::shared_ptr<const Calibration> found_;
    std::shared_ptr<const RunReading> reading_;
    Train believed_;
    std::optional<session::ToldChange> change_;
    Id run_ = 0, other_run_ = 0, shown_ = 0;
    quint64 number_ = 0; ///< of the document's state that was fitted
    double progress_ = 0;
    QString failure_;
    Background work_;
};

} // namespace bathmos::app
