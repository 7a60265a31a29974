// All that a user chooses for themselves in one table, and the keys of every action in another.
#pragma once

#include "app/settings/settings.h"

#include <QDialog>
#include <functional>

class QComboBox;
class QKeySequenceEdit;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace bathmos::app {

class ActionRegistry;

/// The limits that the open project is judged by, told in the same table.
struct LimitsTold {
    QString words;                ///< "usual, duration checked at 1.27 mm"; empty: nothing is open
    std::function<void()> choose; ///< leads to the limits' own dialogue
};

class SettingsDialog : public QDialog {
    Q_OBJECT
  public:
    SettingsDialog(const Settings& now, const ActionRegistry& actions, LimitsTold limits,
                   QWidget* parent = nullptr);

    Settings chosen() const;

  private:
    QWidget* make_table();
    QWidget* make_keys();
    QComboBox* add_choice(const QString& name, const QString& label, const QString& told);
    void add_row(const QString& label, QWidget* value, const QString& told);
    void add_units();
    void show_units(const UnitChoice& units);
    void fill_keys();
    void filter(QTableWidget* table, const QString& text);
    QString action_at(int row) const;
    QKeySequence keys_of(const QString& id) const;
    QString taken_by(const QKeySequence& keys, const QString& but) const;
    void choose_keys(const QString& id, const QKeySequence& keys);
    void show_chosen_key();
    void refresh_later();

    const ActionRegistry& actions_;
    LimitsTold limits_;
    Settings now_;
    QMap<QString, QKeySequence> keys_;
    QTableWidget *table_ = nullptr, *key_table_ = nullptr;
    QComboBox *language_ = nullptr, *look_ = nullptr, *colours_ = nullptr, *text_ = nullptr,
              *decimal_ = nullptr, *units_ = nullptr;
    QMap<int, QComboBox*> by_quantity_; ///< by its place among setting_quantities()
    QKeySequenceEdit* new_keys_ = nullptr;
    QPushButton *give_ = nullptr, *usual_ = nullptr, *none_ = nullptr;
    QLabel *keys_told_ = nullptr, *later_ = nullptr;
};

} // namespace bathmos::app
