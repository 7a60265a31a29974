// What is known of a lobe: a card's lift and durations, or readings by hand or from a file.
#pragma once

#include "app/desk/dialogs.h"
#include "app/text/display_units.h"
#include "core/start/known_train.h"

#include <QWidget>
#include <vector>

class QComboBox;
class QLabel;
class QLineEdit;
class QTabWidget;

namespace bathmos::app {

class ListEdit;

class LobeForm : public QWidget {
    Q_OBJECT
  public:
    LobeForm(DisplayUnits& units, const Dialogs& dialogs, QWidget* parent = nullptr);

    std::variant<LobeCard, LobeTable> lobe() const;
    void show_lobe(const std::variant<LobeCard, LobeTable>& lobe);
    /// "" or what of it is no number.
    QString problem() const;

  signals:
    void changed();

  private:
    struct Claim {
        QLineEdit *duration, *height;
        QComboBox* side;
    };
    QWidget* make_card();
    QWidget* make_readings();
    QLineEdit* number_edit(const QString& name, const QString& spoken, const QString& placeholder);
    std::optional<double> length(const QLineEdit* edit) const;
    void from_file();
    void relabel();
    void fill_card(const LobeCard& card);

    DisplayUnits& units_;
    const Dialogs& dialogs_;
    QTabWidget* tabs_;
    QLineEdit* lift_ = nullptr;
    QComboBox *lift_side_ = nullptr, *angles_ = nullptr, *lifts_ = nullptr;
    std::vector<Claim> claims_;
    std::vector<QLabel*> length_units_;
    ListEdit* readings_ = nullptr;
    LobeTable table_;
    std::variant<LobeCard, LobeTable> typed_;
};

} // namespace bathmos::app
