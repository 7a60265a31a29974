// A hold: the train run on for seconds at the cursor's speed, and how motion and loads develop.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "core/motion/hold.h"

class QComboBox;
class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberField;
class Plot;

class HoldPanel : public QWidget {
    Q_OBJECT
  public:
    explicit HoldPanel(Context context, QWidget* parent = nullptr);
    /// Its wrapping words take no room from the plots above: every tab is as high.
    bool hasHeightForWidth() const override { return false; }
    const std::optional<Hold>& result() const { return hold_; }
    void stop();

  private:
    void run();
    void show_result();

    Context context_;
    double seconds_ = 1;
    std::optional<Hold> hold_;
    quint64 revision_ = 0;
    QString state_;
    QPushButton* button_;
    QComboBox* what_;
    QLabel* words_;
    Plot* plot_;
    int curve_ = 0;
    Background work_;
};

} // namespace bathmos::app
