// The parts shelf: search, sort, choose, fit to the build, new, import, export.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "app/stations/train/shelf_model.h"

#include <QWidget>

class QComboBox;
class QLineEdit;
class QTableView;
class QVBoxLayout;

namespace bathmos::app {

class PartPanel;

class ShelfPanel : public QWidget {
    Q_OBJECT
  public:
    ShelfPanel(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);

    /// Shows the parts of a kind only.
    void show_kind(PartKind kind);
    std::vector<Id> selected() const;

  signals:
    void message(const QString& text);

  protected:
    void showEvent(QShowEvent* event) override {
        QWidget::showEvent(event);
        refresh();
    }

  private:
    void make_list(QVBoxLayout* to);
    void make_buttons(QVBoxLayout* to);
    void refresh();
    std::optional<PartKind> kind() const; ///< chosen above the list; none: all
    void new_part();
    void duplicate();
    void export_parts();
    void import_parts();

    Context context_;
    const Dialogs& dialogs_;
    ShelfModel model_;
    ShelfFilter filter_;
    QComboBox* kind_ = nullptr;
    QLineEdit* search_ = nullptr;
    QTableView* list_ = nullptr;
    PartPanel* part_ = nullptr;
};

} // namespace bathmos::app
