// One part of the shelf with its fields and values to change, or two side by side.
#pragma once

#include "app/desk/context.h"

#include <QWidget>
#include <functional>
#include <vector>

class QCheckBox;
class QLabel;
class QLineEdit;
class QTableWidget;
class QTableWidgetItem;

namespace bathmos::app {

class PartPanel : public QWidget {
    Q_OBJECT
  public:
    explicit PartPanel(Context context, QWidget* parent = nullptr);

    /// Shows one part or two; with none, or more, words on what to choose.
    void show_parts(std::vector<Id> ids);

  signals:
    void message(const QString& text);

  private:
    void make_fields();
    void make_values();
    void show_one(const Part& part);
    void show_values(const Part& part);
    void show_comparison(const Part& a, const Part& b);
    void add_value_row(const PartValue& value);
    void add_fact_row(const Part& part, const PartFact& fact);
    void take_cell(QTableWidgetItem* item);
    void change(const std::function<void(Part&)>& apply);

    Context context_;
    std::vector<Id> ids_;
    QLineEdit *name_ = nullptr, *serial_ = nullptr, *cost_ = nullptr, *note_ = nullptr;
    QCheckBox* history_ = nullptr;
    QTableWidget* values_ = nullptr;
    QLabel* caption_ = nullptr;
    QWidget* details_ = nullptr;
    bool filling_ = false;
};

} // namespace bathmos::app
