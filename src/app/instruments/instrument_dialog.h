// Describes a device: where it is, and what its lines of text hold, tried on what it sends.
#pragma once

#include "app/instruments/instrument_link.h"
#include "app/text/display_units.h"

#include <QDialog>
#include <array>

class QCheckBox;
class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPlainTextEdit;
class QPushButton;
class QSpinBox;

namespace bathmos::app {

class InstrumentDialog : public QDialog {
    Q_OBJECT
  public:
    InstrumentDialog(const InstrumentSetup& setup, DisplayUnits& units, QWidget* parent = nullptr);
    InstrumentSetup setup() const;

  private:
    struct ChannelRow {
        QComboBox* quantity = nullptr;
        QLineEdit* before = nullptr;
        QComboBox* unit = nullptr;
        QCheckBox* reversed = nullptr;
        std::vector<std::string> feeds;
    };
    QWidget* make_place(const InstrumentSetup& setup);
    QWidget* make_lines(const InstrumentSetup& setup);
    ChannelRow make_channel(int number, const InstrumentSetup& setup);
    QWidget* make_trial();
    void fill_units(const ChannelRow& row, const QString& now);
    void look();
    void try_it();
    std::vector<instrument::Channel> channels() const;

    DisplayUnits& units_;
    InstrumentLink link_;
    QLineEdit *name_ = nullptr, *host_ = nullptr, *asks_ = nullptr, *after_ = nullptr, *trial_ = nullptr;
    QComboBox *where_ = nullptr, *port_ = nullptr, *baud_ = nullptr;
    QSpinBox* host_port_ = nullptr;
    QCheckBox* button_ = nullptr;
    QFormLayout* place_ = nullptr;
    std::array<ChannelRow, 3> rows_;
    QPlainTextEdit* heard_ = nullptr;
    QLabel *reads_ = nullptr, *problem_ = nullptr;
    QPushButton* accept_ = nullptr;
    QString last_line_;
};

} // namespace bathmos::app
