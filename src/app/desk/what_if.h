// A change that is being tried: while a value is dragged, the limit speed and the motion at the cursor
// follow, coarse first, refined when the hand rests. The train in hand changes only when the hand lets go.
#pragma once

#include "app/desk/background.h"
#include "app/desk/cursors.h"
#include "app/desk/document.h"
#include "app/desk/sweep_runner.h"
#include "core/motion/quick_limit.h"

#include <QTimer>

namespace bathmos::app {

/// A claimed limit with its metric; the limit by force and the onset beside it, where they are in the range
/// and known.
struct ClaimedLimit {
    double speed_rpm = 0;
    Metric metric = Metric::Loft;
    std::optional<double> contact_loss_rpm{}, onset_rpm{};
};

class WhatIf : public QObject {
    Q_OBJECT
  public:
    WhatIf(Document& document, SweepRunner& sweep, Cursors& cursors, QObject* parent = nullptr);

    enum class Stage { None, Dragging, Coarse, Refined };
    Stage stage() const { return stage_; }
    bool active() const { return trial_.has_value(); }
    /// Of the trial; empty where the range holds none (see stage) or not yet known.
    const std::optional<ClaimedLimit>& limit() const { return limit_; }
    /// Of the trial at the speed cursor, or null.
    const Motion* motion() const { return motion_.get(); }
    const std::vector<double>& rigid_m() const { return rigid_m_; }
    /// Why the trial cannot be computed, or "".
    QString problem() const { return problem_; }
    /// The limit before the first change since it was last forgotten.
    const std::optional<ClaimedLimit>& before() const { return before_; }
    /// Where the trial moves the limit by force and the onset in opposite directions: by how much each, in
    /// words; else "".
    QString opposed() const;

    /// Shows what a train would do; calls come as fast as the hand moves.
    void drag(const Train& trial);
    /// The hand let go: the trial becomes an undoable edit.
    void let_go(const QString& what, const QString& key);
    /// The trial is dropped.
    void leave();
    void forget_before();
    void stop();

  signals:
    void changed();

  private:
    void next();
    void compute(const Train& train);
    void take_limit(std::optional<ClaimedLimit> limit, Stage stage);

    Document& document_;
    SweepRunner& sweep_;
    Cursors& cursors_;
    std::optional<Train> trial_;
    bool waiting_ = false; ///< the trial is newer than what is being computed
    Stage stage_ = Stage::None;
    bool coarse_done_ = true;
    std::optional<ClaimedLimit> limit_, before_;
    std::shared_ptr<const Motion> motion_;
    std::vector<double> rigid_m_;
    QString problem_, path_;
    Background work_;
};

} // namespace bathmos::app
