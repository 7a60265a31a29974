// What the shown pulls say, what else could explain a loss, and the difference by range of speed, as tables.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QTabWidget;

namespace bathmos::app {

class NumberTable;
class StatesView;

class PullTables : public QWidget {
    Q_OBJECT
  public:
    explicit PullTables(Context context, QWidget* parent = nullptr);
    /// Another tab beside its own.
    void add_tab(QWidget* page, const QString& title);
    void fill();
    /// Brings the table of all states to the front.
    void show_states();

  signals:
    void location_wanted(const QString& location); ///< of the station: "channel/blower"

  private:
    void fill_summary();
    void fill_confounders();
    void fill_gains();
    void add_row(const QString& what, const QString& value);
    QString power_text(double si) const;

    Context context_;
    QTabWidget* tabs_;
    NumberTable *summary_, *confounders_, *gains_;
    StatesView* states_;
};

} // namespace bathmos::app
