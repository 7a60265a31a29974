// The build in hand at the top of the window: its name, revision and file, what it is compared with, the
// sweep with its range and progress, the target.
#pragma once

#include "app/shell/context.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;

namespace bathmos::app {

class BuildBar : public QWidget {
    Q_OBJECT
  public:
    explicit BuildBar(Context context, QWidget* parent = nullptr);
    double target_rpm() const;
    void set_target(double rpm);
    void show_range(const SpeedRange& range);

  signals:
    void target_changed();
    void range_edited(const SpeedRange& range);

  private:
    QSpinBox* speed_box(const QString& name, const QString& label, int low, int high, int step);
    QComboBox* revision_box(const QString& name, const QString& label);
    void fill_revisions();
    QString finding_words() const;
    void refresh();

    Context context_;
    QLabel *name_, *state_, *verdict_;
    QComboBox *shown_, *compared_;
    QSpinBox *first_, *last_, *step_, *target_;
    QProgressBar* progress_;
    QPushButton* stop_;
};

} // namespace bathmos::app
