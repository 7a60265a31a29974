// The revision that the one in hand is set against: its motion at the speed cursor, and its limit speed where
// no prediction holds it yet.
#pragma once

#include "app/desk/background.h"
#include "app/desk/cursors.h"
#include "app/desk/document.h"
#include "app/desk/sweep_runner.h"

namespace bathmos::app {

class Comparison : public QObject {
    Q_OBJECT
  public:
    Comparison(Document& document, SweepRunner& sweep, Cursors& cursors, QObject* parent = nullptr);
    ~Comparison() override { stop(); }

    /// Motion of the compared revision at the speed cursor; null while it is not there.
    const Motion* motion() const { return motion_.get(); }
    /// What the parts of the compared revision add up to; null where nothing is compared, or it has problems.
    /// Kept as long as its train is the same: the lobe of a table takes longer than a key may.
    const TrainFigures* figures();
    /// Finds the limit of any revision in the background and keeps it as a prediction.
    void want_limit(Id revision);
    void stop();

  signals:
    void changed();

  private:
    void follow();
    void compute();

    Document& document_;
    SweepRunner& sweep_;
    Cursors& cursors_;
    Id compared_ = 0, limit_of_ = 0;
    double speed_rpm_ = 0;
    std::shared_ptr<const Motion> motion_;
    std::optional<Train> figured_; ///< whose figures those are
    std::optional<TrainFigures> figures_;
    Background motion_work_, limit_work_;
};

} // namespace bathmos::app
