// Gathers many requests to redraw into one, and none while the widget is hidden: that one comes as it is
// shown.
#pragma once

#include <QEvent>
#include <QTimer>
#include <QWidget>
#include <functional>

namespace bathmos::app {

/// Pauses that gather requests, ms: a curve that follows the hand; a page of plots; what takes its time.
inline constexpr int kAtOnce_ms = 8, kPage_ms = 15, kUnhurried_ms = 40;

class Refresher : public QObject {
    Q_OBJECT
  public:
    Refresher(QWidget* widget, int pause_ms, std::function<void()> redraw)
        : QObject(widget), widget_(widget), redraw_(std::move(redraw)) {
        timer_.setSingleShot(true);
        timer_.setInterval(pause_ms);
        connect(&timer_, &QTimer::timeout, this, [this] { run(); });
        widget_->installEventFilter(this);
    }
    /// A redraw was asked for and has not come yet.
    bool waiting() const { return timer_.isActive(); }
    void ask() {
        if (!timer_.isActive())
            timer_.start();
    }
    /// Before this returns, where the widget is seen.
    void at_once() {
        timer_.stop();
        run();
    }

  protected:
    bool eventFilter(QObject*, QEvent* event) override {
        if (event->type() == QEvent::Show && missed_)
            run();
        return false;
    }

  private:
    void run() {
        missed_ = !widget_->isVisible();
        if (!missed_)
            redraw_();
    }
    QWidget* widget_;
    std::function<void()> redraw_;
    QTimer timer_;
    bool missed_ = false;
};

} // namespace bathmos::app
