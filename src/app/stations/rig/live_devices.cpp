#include "app/stations/rig/live_devices.h"

#include "app/instruments/instrument_dialog.h"
#include "app/text/words.h"
#include "app/theme/theme.h"
#include "app/widgets/remembered.h"
#include "app/widgets/still_label.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr int kDevices_ms = 250;

bool says(const InstrumentSetup& setup, Quantity quantity) {
    return std::ranges::any_of(setup.channels,
                               [&](const instrument::Channel& one) { return one.quantity == quantity; });
}

QString key_of(Quantity quantity) {
    return quantity == Quantity::Speed ? QStringLiteral("live/speed_device")
                                       : QStringLiteral("live/oil_device");
}

} // namespace

LiveDevices::LiveDevices(DisplayUnits& units, QWidget* parent)
    : QWidget(parent), units_(units),
      shows_(new StillLabel(QStringLiteral("live_devices_show"), Theme::number_font(12), 1)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(2);
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    places_[0] = {Quantity::Speed, make_choice(QStringLiteral("live_speed_device"), tr("Speed said by"))};
    places_[1] = {Quantity::Temperature, make_choice(QStringLiteral("live_oil_device"), tr("Oil said by"))};
    for (const Place& place : places_) {
        line->addWidget(place.choice, 1);
        connect(place.choice, &QComboBox::activated, this, [this, &place](int row) { chosen(place, row); });
    }
    layout->addLayout(line);
    shows_->hide();
    layout->addWidget(shows_);
    fill_choices();
    auto* timer = new QTimer(this);
    connect(timer, &QTimer::timeout, this, &LiveDevices::look);
    timer->start(kDevices_ms);
}

QComboBox* LiveDevices::make_choice(const QString& name, const QString& label) {
    auto* out = new QComboBox;
    out->setObjectName(name);
    out->setAccessibleName(label);
    out->setToolTip(
        tr("%1: the rig itself, or a device of yours that says lines of text over a serial port or "
           "the network. What it says is kept with the run and watched by the stop rules.")
            .arg(label));
    out->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    out->setMinimumContentsLength(8);
    return out;
}

void LiveDevices::keep_on(bool on) {
    if (on_ != on) {
        on_ = on;
        follow_choices();
    }
}

void LiveDevices::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    fill_choices(); // another page may have described one
    follow_choices();
}

void LiveDevices::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    follow_choices();
}

// First the rig itself, then the devices that say this, last a new one.
void LiveDevices::fill_choices() {
    for (const Place& place : places_) {
        const QSignalBlocker quiet(place.choice);
        place.choice->clear();
        const bool speed = place.quantity == Quantity::Speed;
        place.choice->addItem(speed ? tr("speed: rig") : tr("oil: rig"), QString());
        for (const QString& name : remembered_instruments())
            if (const auto setup = remembered_instrument(name); setup && says(*setup, place.quantity))
                place.choice->addItem((speed ? tr("speed: %1") : tr("oil: %1")).arg(name), name);
        place.choice->addItem(tr("a device…"));
        const int row = place.choice->findData(remembered().value(key_of(place.quantity)).toString());
        place.choice->setCurrentIndex(std::max(0, row));
    }
}

void LiveDevices::chosen(const Place& place, int row) {
    if (row == place.choice->count() - 1) {
        fill_choices(); // back to what it was, should nothing come of it
        return describe(place);
    }
    remembered().setValue(key_of(place.quantity), place.choice->itemData(row).toString());
    follow_choices();
}

void LiveDevices::describe(const Place& place) {
    InstrumentSetup fresh;
    fresh.name = place.quantity == Quantity::Speed ? tr("tachometer") : tr("thermometer");
    fresh.network = true;
    fresh.channels = {{"reading", place.quantity, {}, {}, false, {}}};
    InstrumentDialog dialog(fresh, units_, this);
    if (dialog.exec() == QDialog::Accepted)
        listen_to(dialog.setup());
}

void LiveDevices::listen_to(const InstrumentSetup& setup) {
    remember_instrument(setup);
    for (const Place& place : places_)
        if (says(setup, place.quantity))
            remembered().setValue(key_of(place.quantity), setup.name);
    links_.erase(setup.name); // it may be somewhere else now
    fill_choices();
    follow_choices();
}

// One line for each device that is wanted, however much it says.
void LiveDevices::follow_choices() {
    std::map<QString, std::unique_ptr<InstrumentLink>> next;
    for (const Place& place : places_) {
        if (!isVisible() && !on_)
            break;
        const QString name = place.choice->currentData().toString();
        const auto setup = name.isEmpty() ? std::nullopt : remembered_instrument(name);
        if (!setup || next.contains(name))
            continue;
        if (const auto at = links_.find(name); at != links_.end()) {
            next[name] = std::move(at->second);
            continue;
        }
        auto link = std::make_unique<InstrumentLink>();
        connect(link.get(), &InstrumentLink::told, this, &LiveDevices::message);
        link->open(*setup);
        next[name] = std::move(link);
    }
    links_ = std::move(next);
    look();
}

live::DeviceReading LiveDevices::reading_of(const InstrumentLink& link) const {
    live::DeviceReading out{link.setup().name.toStdString(), {}, {}};
    const auto& channels = link.setup().channels;
    const auto& values = link.latest()->values_si;
    for (const Place& place : places_)
        for (std::size_t i = 0; i < std::min(channels.size(), values.size()); ++i)
            if (channels[i].quantity == place.quantity && values[i] &&
                place.choice->currentData().toString() == link.setup().name) {
                (place.quantity == Quantity::Speed ? out.rpm : out.oil_C) = values[i];
                break;
            }
    return out;
}

void LiveDevices::look() {
    QStringList shown;
    for (const auto& [name, link] : links_) {
        QString says = tr("no word");
        if (link->fresh()) {
            const live::DeviceReading reading = reading_of(*link);
            QStringList parts;
            if (reading.rpm)
                parts << units_.text(Quantity::Speed, *reading.rpm);
            if (reading.oil_C)
                parts << units_.text(Quantity::Temperature, *reading.oil_C);
            if (!parts.isEmpty()) {
                says = parts.join(QStringLiteral(", "));
                emit heard(reading);
            } else if (!link->latest()->why.empty()) {
                says = phrase(link->latest()->why);
            }
        }
        shown << QStringLiteral("%1: %2").arg(name, says);
    }
    shows_->set_text(shown.join(QStringLiteral(" · ")));
    shows_->setVisible(!shown.isEmpty());
}

} // namespace bathmos::app
