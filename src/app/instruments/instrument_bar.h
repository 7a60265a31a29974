// The device in hand, in one line above the readings: which one, what it shows, whether it can be taken.
#pragma once

#include "app/instruments/instrument_link.h"
#include "app/instruments/reading_source.h"
#include "app/instruments/standin_process.h"
#include "app/text/display_units.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QToolButton;

namespace bathmos::app {

class InstrumentBar : public QWidget, public ReadingSource {
    Q_OBJECT
  public:
    explicit InstrumentBar(DisplayUnits& units, QWidget* parent = nullptr);
    /// What the stand-in plays for this kind of sheet; none where nothing does.
    void set_standin(const std::optional<StandinKind>& kind);
    void connect_to(const InstrumentSetup& setup);

    bool there() const override;
    std::vector<InstrumentValue> read_now() override;
    void was_taken() override;

  signals:
    void message(const QString& text);
    /// A device that is read at its own button has sent a reading.
    void sent_by_itself();

  private:
    void fill_choice();
    void chosen(int row);
    void describe(const InstrumentSetup& setup);
    void heard();
    void show_state();
    void start_standin();
    void end_standin();
    QString shown(const instrument::LineReading& reading) const;

    DisplayUnits& units_;
    InstrumentLink link_;
    StandinProcess process_;
    std::optional<StandinKind> standin_;
    QComboBox* choice_;
    QPushButton* describe_;
    QPushButton* try_;
    QToolButton* hand_;
    QLabel* shows_;
    bool filling_ = false, standing_in_ = false;
};

} // namespace bathmos::app
