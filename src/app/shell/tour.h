// Six steps through the demo's story: a note beside each real part of the window that it speaks of.
#pragma once

#include "app/theme/theme.h"

#include <QFrame>
#include <QVector>
#include <functional>

class QLabel;
class QPushButton;

namespace bathmos::app {

struct TourStep {
    QString link;   ///< the view, as the window's links name it; empty: stay
    QString target; ///< object name of what it speaks of
    QString title, text;
};
/// The demo's story, in the order of the work.
QVector<TourStep> demo_tour();

class Tour : public QFrame {
    Q_OBJECT
  public:
    /// `go` shows the view of a step.
    Tour(const QVector<TourStep>& steps, Theme& theme, std::function<void(const QString& link)> go,
         QWidget* window);
    void begin();
    int step() const { return step_; }

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void show_step(int step);
    void place();
    void end();

    class Ring;
    QVector<TourStep> steps_;
    std::function<void(const QString&)> go_;
    QWidget* window_;
    Ring* ring_;
    QLabel *title_, *text_, *count_;
    QPushButton *back_, *next_;
    int step_ = -1;
};

} // namespace bathmos::app
