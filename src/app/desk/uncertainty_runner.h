// the uncertainty of the limit speed over the tolerances of the train in hand, computed in the background
// once its sweep is done.
#pragma once

#include "app/desk/background.h"
#include "app/desk/sweep_runner.h"
#include "core/uncertainty/limit_uncertainty.h"

#include <QTimer>

namespace bathmos::app {

class UncertaintyRunner : public QObject {
    Q_OBJECT
  public:
    UncertaintyRunner(Document& document, SweepRunner& sweep, QObject* parent = nullptr);

    /// The newest result, or null; of the current train unless old().
    const LimitUncertainty* uncertainty() const { return uncertainty_ ? &*uncertainty_ : nullptr; }
    bool old() const { return uncertainty_ && revision_ != document_.revision(); }
    bool running() const { return work_.running(); }
    double progress() const { return progress_; }
    QString failure() const { return failure_; }
    /// Whether it starts by itself when a sweep is done.
    bool automatic() const { return automatic_; }
    void set_automatic(bool on);
    void set_trains(std::size_t trains) { trains_ = trains; }
    void start();
    void stop();

  signals:
    void changed();

  private:
    void ask();
    void take(const LimitUncertainty& uncertainty, quint64 revision);

    Document& document_;
    SweepRunner& sweep_;
    std::optional<LimitUncertainty> uncertainty_;
    quint64 revision_ = 0; ///< which the result belongs to
    Id build_ = 0;         ///< likewise
    double progress_ = 0;
    QString failure_;
    bool automatic_ = true;
    std::size_t trains_ = 200;
    QTimer pause_;
    Background work_;
};

} // namespace bathmos::app
