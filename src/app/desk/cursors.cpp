#include "app/desk/cursors.h"

#include <algorithm>
#include <cmath>

namespace bathmos::app {

void Cursors::set_speed(double rpm) {
    const double speed = std::clamp(std::round(rpm), 100.0, 30000.0);
    if (speed == speed_rpm_)
        return;
    speed_rpm_ = speed;
    emit speed_changed(speed);
}

void Cursors::set_crank(double deg) {
    const double crank = std::clamp(std::round(deg * 2) / 2, -360.0, 360.0);
    if (crank == crank_deg_)
        return;
    crank_deg_ = crank;
    emit crank_changed(crank);
}

} // namespace bathmos::app
