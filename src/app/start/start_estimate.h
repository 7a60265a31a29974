// The limit of a train that is being put together, with its band and what is worth measuring, while it is
// typed.
#pragma once

#include "app/desk/background.h"
#include "core/start/start_train.h"
#include "core/start/worth_knowing.h"

#include <QTimer>

namespace bathmos::app {

class StartEstimate : public QObject {
    Q_OBJECT
  public:
    explicit StartEstimate(QObject* parent = nullptr);

    /// Computes anew, a moment after the last call.
    void ask(const StartedTrain& started);
    /// Nothing to compute: the numbers make no train.
    void forget();
    void set_trains(std::size_t trains) { trains_ = trains; }

    const LimitUncertainty* band() const { return band_ ? &*band_ : nullptr; }
    const std::vector<WorthKnowing>& worth() const { return worth_; }
    bool running() const { return pause_.isActive() || work_.running(); }
    /// The band belongs to numbers from before.
    bool old() const { return band_ && !fresh_; }
    QString failure() const { return failure_; }

  signals:
    void changed();

  private:
    void start();
    void take(const LimitUncertainty& band);

    StartedTrain started_;
    std::optional<LimitUncertainty> band_;
    std::vector<WorthKnowing> worth_;
    bool fresh_ = false;
    QString failure_;
    std::size_t trains_ = 100;
    QTimer pause_;
    Background work_;
};

} // namespace bathmos::app
