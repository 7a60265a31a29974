// What spring does this need: lines of equal limit over rate and seat load, the springs of the shelf among
// them, the one of least load that keeps the target, and the one with most margin.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "core/whatif/spring_need.h"

class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberField;
class Plot;

class SpringNeedPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SpringNeedPanel(Context context, QWidget* parent = nullptr);
    /// Its wrapping words take no room from the plots above: every tab is as high.
    bool hasHeightForWidth() const override { return false; }
    void stop() { work_.stop(); }
    /// Tries fewer springs; for tests.
    void set_steps(std::size_t steps) { query_.steps = steps; }

  private:
    NumberField* bound(const QString& key, Quantity quantity, const QString& label, const QString& help,
                       double* value);
    void run();
    void show_result();
    void draw();
    void draw_shelf();
    QString words_of(const TriedSpring& spring) const;
    QString lines_said() const;

    Context context_;
    SpringNeedQuery query_;
    QPushButton* run_;
    QLabel* words_;
    Plot* plot_;
    std::vector<int> lines_;
    int target_ = 0, now_ = 0, least_ = 0, most_ = 0, shelf_ = 0;
    std::optional<SpringNeed> need_;
    SpringNeedQuery asked_;
    quint64 revision_ = 0;
    QString state_;
    Background work_;
};

} // namespace bathmos::app
