// Where equivalent mass and give come from, as two bars of the parts' shares; the compared revision's
// beneath.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

namespace bathmos::app {

class BudgetView : public QWidget {
    Q_OBJECT
  public:
    explicit BudgetView(Context context, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Bar {
        QString title;
        std::vector<Share> shares;
        double total = 0;
        QString total_text;
    };
    std::vector<std::vector<Bar>> groups() const;
    std::vector<Bar> bars_of(const TrainFigures& figures, const QString& who) const;
    static int height_of(const std::vector<std::vector<Bar>>& all);
    void describe();
    double paint_group(class QPainter& painter, double y, const std::vector<Bar>& group) const;

    Context context_;
};

} // namespace bathmos::app
