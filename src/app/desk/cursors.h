// The two cursors that every view shares: the speed on the threshold strip, and the crank angle.
#pragma once

#include <QObject>

namespace bathmos::app {

class Cursors : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    double speed_rpm() const { return speed_rpm_; }
    double crank_deg() const { return crank_deg_; } ///< from the nose, -360..360

    void set_speed(double rpm);
    void set_crank(double deg);

  signals:
    void speed_changed(double rpm);
    void crank_changed(double deg);

  private:
    double speed_rpm_ = 7000;
    double crank_deg_ = 0;
};

} // namespace bathmos::app
