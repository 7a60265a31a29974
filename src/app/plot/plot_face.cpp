#include "app/plot/plot_face.h"

#include "app/plot/plot.h"

#include <QAccessible>
#include <QAccessibleWidget>

namespace bathmos::app {

namespace {

class PlotFace : public QAccessibleWidget {
  public:
    explicit PlotFace(Plot* plot) : QAccessibleWidget(plot, QAccessible::Chart), plot_(plot) {}
    QString text(QAccessible::Text what) const override {
        return what == QAccessible::Description || what == QAccessible::Value ? plot_->spoken()
                                                                              : QAccessibleWidget::text(what);
    }

  private:
    Plot* plot_; ///< lives as long as this
};

QAccessibleInterface* face_of(const QString&, QObject* object) {
    auto* plot = qobject_cast<Plot*>(object);
    return plot ? new PlotFace(plot) : nullptr;
}

} // namespace

void give_plots_a_face() {
    static const bool given = (QAccessible::installFactory(face_of), true);
    static_cast<void>(given);
}

} // namespace bathmos::app
