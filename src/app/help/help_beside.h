// The stations with help beside them where there is room, and over their right edge where there is not:
// opening help never makes the window wider.
#pragma once

#include <QWidget>

namespace bathmos::app {

class HelpBeside : public QWidget {
    Q_OBJECT
  public:
    /// Takes both; `help` has a fixed width.
    HelpBeside(QWidget* stations, QWidget* help);
    QSize sizeHint() const override { return stations_->sizeHint(); }
    QSize minimumSizeHint() const override { return stations_->minimumSizeHint(); }

  protected:
    bool event(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void place();
    QWidget *stations_, *help_;
};

} // namespace bathmos::app
