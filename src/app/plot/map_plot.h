// A quantity over speed and crank angle as shades, with both cursors.
#pragma once

#include "app/plot/plot.h"

class QCPColorMap;
class QCPColorScale;

namespace bathmos::app {

class MapPlot : public Plot {
    Q_OBJECT
  public:
    MapPlot(Theme& theme, const QString& name, QWidget* parent = nullptr);

    /// `rows`: one a speed (even steps from low to high), each with values at even angles over [angle_low,
    /// angle_high]; NaN where unknown.
    void set_values(double speed_low, double speed_high, double angle_low, double angle_high,
                    const QVector<QVector<double>>& rows);
    void set_scale_label(const QString& label);
    /// Value drawn at a place, NaN outside.
    double value_at(double angle, double speed) const;

  protected:
    void restyle() override;
    QString reading(double x, double y) const override;

  private:
    Theme& theme_;
    QCPColorMap* map_ = nullptr;
    QCPColorScale* scale_ = nullptr;
    QString label_;
};

} // namespace bathmos::app
