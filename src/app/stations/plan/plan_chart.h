// The time table of a plan as a picture: a row a day, changes hatched, runs solid, the baseline in its own
// colour, what is left of each day empty; also as words for who does not see it.
#pragma once

#include "app/theme/theme.h"
#include "core/plan/plan.h"

#include <QWidget>

namespace bathmos::app {

class PlanChart : public QWidget {
    Q_OBJECT
  public:
    explicit PlanChart(const Theme& theme, QWidget* parent = nullptr);
    void show_plan(const plan::Campaign& campaign, const plan::Plan& plan, bool old);
    void clear();
    int chosen() const { return chosen_; }
    void choose(int run);

  signals:
    void run_chosen(int run); ///< by a click

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    struct Piece {
        std::size_t day;
        double from_h, to_h; ///< of that day
        bool change;
        int run;
    };
    double day_begin_h(std::size_t day) const;
    QRectF place(const Piece& piece) const;
    int run_at(const QPointF& at) const;
    void cut_at_nights(double from_h, double to_h, bool change, int run);

    const Theme& theme_;
    plan::Campaign campaign_;
    std::vector<plan::PlannedRun> runs_;
    std::vector<Piece> pieces_;
    bool old_ = false;
    int chosen_ = -1;
};

} // namespace bathmos::app
