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
    /// The second cursor: a horizontal line at the speed of all views.
    void set_speed(double speed);
    void set_scale_label(const QString& label);
    /// Value drawn at a place, NaN outside.
    double value_at(double angle, double speed) const;

  signals:
    void speed_moved(double speed); ///< the user chose a place: both cursors go there

  protected:
    void restyle() override;
    void place_cursor(double x, double y) override;
    void keyPressEvent(QKeyEvent* event) override;
    QString reading(double x, double y) const override;

  private:
    Theme& theme_;
    QCPColorMap* map_ = nullptr;
    QCPColorScale* scale_ = nullptr;
    QCPItemStraightLine* speed_line_ = nullptr;
    double speed_ = 0;
    QString label_;
};

} // namespace bathmos::app
