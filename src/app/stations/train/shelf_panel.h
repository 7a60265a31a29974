// The parts shelf: search, sort, look at one part and change its values, compare two, fit one to the build.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QTableWidget;
class QTableWidgetItem;
class QVBoxLayout;

namespace bathmos::app {

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
    void make_part(QVBoxLayout* to);
    void refresh();
    void fill_list();
    void show_part();
    void show_values(const Part& part);
    void show_comparison(const Part& a, const Part& b);
    void add_value_row(const PartValue& value);
    void add_fact_row(const Part& part, const PartFact& fact);
    void take_cell(QTableWidgetItem* item);
    void change(const std::function<void(Part&)>& apply);
    void new_part();
    void duplicate();
    void export_parts();
    void import_parts();
    bool passes(const Part& part) const;

    Context context_;
    const Dialogs& dialogs_;
    QComboBox* kind_ = nullptr;
    QLineEdit *search_ = nullptr, *name_ = nullptr, *serial_ = nullptr, *cost_ = nullptr, *note_ = nullptr;
    QCheckBox* history_ = nullptr;
    QTableWidget *list_ = nullptr, *values_ = nullptr;
    QLabel* caption_ = nullptr;
    QWidget* details_ = nullptr;
    bool filling_ = false;
};

} // namespace bathmos::app
