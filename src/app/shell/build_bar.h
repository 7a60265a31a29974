// The build in hand at the top of the window: its name, revision and file, what it is compared with, the
// sweep with its range and progress, the target.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;

namespace bathmos::app {

class RevisionList;

class BuildBar : public QWidget {
    Q_OBJECT
  public:
    explicit BuildBar(Context context, QWidget* parent = nullptr);

  signals:
    void limits_wanted(); ///< the person asks to choose them

  private:
    QSpinBox* speed_box(const QString& name, const QString& label, int low, int high, int step);
    QComboBox* revision_box(const QString& name, const QString& label, RevisionList* list);
    void fill_revisions();
    QString finding_words() const;
    void show_range();
    void refresh();

    Context context_;
    QLabel *name_, *state_, *verdict_;
    QComboBox *shown_, *compared_;
    RevisionList *shown_list_, *compared_list_;
    QSpinBox *first_, *last_, *step_, *target_;
    QProgressBar* progress_;
    QPushButton *stop_, *limits_;
};

} // namespace bathmos::app
