// Devices of text beside a running rig: which one says the speed, which one the oil's temperature.
#pragma once

#include "app/instruments/instrument_link.h"
#include "app/text/display_units.h"
#include "core/live/rig_message.h"

#include <QWidget>
#include <array>
#include <map>
#include <memory>

class QComboBox;

namespace bathmos::app {

class StillLabel;

class LiveDevices : public QWidget {
    Q_OBJECT
  public:
    explicit LiveDevices(DisplayUnits& units, QWidget* parent = nullptr);
    /// Listens to a device for all that its lines hold, and remembers it.
    void listen_to(const InstrumentSetup& setup);
    /// Goes on while the page is out of sight: a run is being made. Else a port is left to others.
    void keep_on(bool on);

  signals:
    /// Four times a second of each device, as long as it speaks.
    void heard(const live::DeviceReading& reading);
    void message(const QString& text);

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

  private:
    struct Place { ///< what a device is wanted for
        Quantity quantity;
        QComboBox* choice = nullptr;
    };
    QComboBox* make_choice(const QString& name, const QString& label);
    void fill_choices();
    void chosen(const Place& place, int row);
    void describe(const Place& place);
    void follow_choices();
    void look();
    live::DeviceReading reading_of(const InstrumentLink& link) const;

    DisplayUnits& units_;
    std::array<Place, 2> places_;
    StillLabel* shows_;
    bool on_ = false;
    std::map<QString, std::unique_ptr<InstrumentLink>> links_;
};

} // namespace bathmos::app
