// Sweeps the document's train in the background: starts anew at each edit, hands on speeds as they come,
// keeps the old result visible as old until the new one is complete.
#pragma once

#include "app/desk/background.h"
#include "app/desk/document.h"

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>
#include <optional>

namespace bathmos::app {

/// Result of one revision of the train, possibly still growing.
struct SweepResult {
    quint64 revision = 0;
    std::map<double, std::shared_ptr<const Motion>> motions; ///< by speed
    std::optional<SweepSummary> summary; ///< once all speeds are there; its limit is refined a little later
    std::vector<double> rigid_m;         ///< kinematic motion on the motions' grid

    bool complete() const { return summary.has_value(); }
    /// The motion nearest a speed, or null.
    const Motion* nearest(double speed_rpm) const;
    std::vector<SpeedMetrics> rows() const;
};

class SweepRunner : public QObject {
    Q_OBJECT
  public:
    enum class State { Idle, Running, Done, Stopped, Failed };

    explicit SweepRunner(Document& document, QObject* parent = nullptr);
    ~SweepRunner() override;

    const SweepResult& current() const { return current_; }
    /// The last complete result of an earlier revision; empty motions when there is none or the current one
    /// is complete.
    const SweepResult& old() const { return old_; }
    /// What a view shows at a speed: the current revision's motion if there is one within a step, else the
    /// old one's.
    struct Shown {
        const Motion* motion = nullptr;
        const std::vector<double>* rigid_m = nullptr;
        bool old = false;
    };
    Shown shown_at(double speed_rpm) const;
    /// Summary of the current revision, or of the old one while it runs (old = true).
    const SweepSummary* summary(bool* old = nullptr) const;

    State state() const { return state_; }
    double progress() const { return progress_; }
    QString failure() const { return failure_; }
    const SpeedRange& range() const { return document_.range(); }
    void set_range(const SpeedRange& range) { document_.set_range(range); }
    void stop();
    void restart();

  signals:
    void motions_changed(); ///< a speed was added, or results became old
    void finished();        ///< any ending; see state()
    void progress_changed();

  private:
    void start();
    void forget();
    void receive(std::shared_ptr<const Motion> motion, double share);
    void take_estimate(const SweepSummary& estimate);
    void conclude(const QString& failure);

    Document& document_;
    SweepResult current_, old_;
    Id build_ = 0; ///< whose results stand there
    SpeedRange swept_;
    State state_ = State::Idle;
    double progress_ = 0;
    QString failure_;
    QTimer delay_;
    Background work_;
};

} // namespace bathmos::app
