#include "app/instruments/instrument_bar.h"

#include "app/instruments/instrument_dialog.h"
#include "app/text/words.h"
#include "app/theme/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace bathmos::app {

InstrumentBar::InstrumentBar(DisplayUnits& units, QWidget* parent)
    : QWidget(parent), units_(units), link_(this), process_(this), choice_(new QComboBox),
      describe_(new QPushButton(tr("Device…"))), try_(new QPushButton(tr("Try without a device"))),
      hand_(new QToolButton), shows_(new QLabel) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    choice_->setObjectName(QStringLiteral("instrument_choice"));
    choice_->setAccessibleName(tr("Where readings come from"));
    choice_->setToolTip(
        tr("Enter takes what the device shows into the empty cell, and goes on; Ctrl+Enter takes a "
           "repeat into the same cell"));
    describe_->setObjectName(QStringLiteral("instrument_describe"));
    describe_->setToolTip(tr("Where a device is and what its lines of text hold"));
    try_->setObjectName(QStringLiteral("instrument_try"));
    try_->setToolTip(
        tr("Starts a stand-in that measures a hidden part, with errors; it ends with the window"));
    hand_->setObjectName(QStringLiteral("instrument_hand"));
    hand_->setText(tr("Hand"));
    hand_->setToolTip(tr("What the hand at the stand-in does next"));
    hand_->setPopupMode(QToolButton::InstantPopup);
    shows_->setObjectName(QStringLiteral("instrument_shows"));
    shows_->setFont(Theme::number_font(12));
    layout->addWidget(choice_);
    layout->addWidget(shows_, 1);
    layout->addWidget(hand_);
    layout->addWidget(try_);
    layout->addWidget(describe_);
    auto* menu = new QMenu(hand_);
    const auto add = [&](const char* command, const QString& label) {
        menu->addAction(label, this, [this, command] { link_.send(QLatin1String(command)); });
    };
    add("next", tr("Next reading"));
    add("part", tr("Next part"));
    add("working", tr("Fit the working spring"));
    add("again", tr("From the start"));
    add("zero", tr("Take everything off"));
    hand_->setMenu(menu);
    connect(choice_, &QComboBox::activated, this, &InstrumentBar::chosen);
    connect(describe_, &QPushButton::clicked, this, [this] {
        describe(remembered_instrument(choice_->currentData().toString()).value_or(InstrumentSetup()));
    });
    connect(try_, &QPushButton::clicked, this, &InstrumentBar::start_standin);
    connect(&link_, &InstrumentLink::line, this, &InstrumentBar::heard);
    connect(&link_, &InstrumentLink::state_changed, this, &InstrumentBar::show_state);
    connect(&link_, &InstrumentLink::told, this, &InstrumentBar::message);
    connect(&process_, &StandinProcess::failed, this, &InstrumentBar::message);
    connect(&process_, &StandinProcess::ready, this, [this](const InstrumentSetup& setup) {
        connect_to(setup);
        standing_in_ = true;
        fill_choice();
        show_state();
    });
    connect(&units_, &DisplayUnits::changed, this, &InstrumentBar::show_state);
    fill_choice();
    show_state();
}

void InstrumentBar::fill_choice() {
    filling_ = true;
    const QString now = choice_->currentData().toString();
    choice_->clear();
    choice_->addItem(tr("Keyboard"), QString());
    for (const QString& name : remembered_instruments())
        choice_->addItem(name, name);
    if (standing_in_) {
        choice_->addItem(link_.setup().name, QString());
        choice_->setCurrentIndex(choice_->count() - 1);
    } else {
        choice_->setCurrentIndex(std::max(0, choice_->findData(now)));
    }
    filling_ = false;
}

void InstrumentBar::chosen(int row) {
    if (filling_)
        return;
    const QString name = choice_->itemData(row).toString();
    end_standin();
    choice_->setCurrentIndex(std::max(0, choice_->findData(name)));
    const auto setup = remembered_instrument(name);
    if (setup)
        connect_to(*setup);
    else
        link_.close();
}

void InstrumentBar::describe(const InstrumentSetup& setup) {
    const bool was_there = there();
    const InstrumentSetup before = link_.setup();
    link_.close(); // a serial port has one listener, and that is the dialogue
    InstrumentDialog dialog(setup, units_, this);
    if (dialog.exec() != QDialog::Accepted) {
        if (was_there)
            link_.open(before);
        return;
    }
    remember_instrument(dialog.setup());
    fill_choice();
    choice_->setCurrentIndex(choice_->findData(dialog.setup().name));
    chosen(choice_->currentIndex());
}

void InstrumentBar::connect_to(const InstrumentSetup& setup) {
    link_.open(setup);
}

void InstrumentBar::set_standin(const std::optional<StandinKind>& kind) {
    const bool other = kind.has_value() != standin_.has_value() || (kind && kind->name != standin_->name);
    standin_ = kind;
    try_->setEnabled(kind.has_value());
    if (other && standing_in_) // it plays what this sheet does not read
        end_standin();
    show_state();
}

void InstrumentBar::end_standin() {
    if (!standing_in_)
        return;
    process_.stop();
    link_.close();
    standing_in_ = false;
    fill_choice();
}

void InstrumentBar::start_standin() {
    if (!standin_)
        return;
    link_.close();
    process_.start(*standin_, tr("Stand-in"));
}

QString InstrumentBar::shown(const instrument::LineReading& reading) const {
    if (reading.state != instrument::LineState::Value)
        return QStringLiteral("▲ %1").arg(phrase(reading.why));
    QStringList out;
    const auto& channels = link_.setup().channels;
    for (std::size_t i = 0; i < reading.values_si.size(); ++i)
        out << QStringLiteral("%1 %2 %3")
                   .arg(phrase(channels[i].label),
                        reading.values_si[i] ? units_.typed(channels[i].quantity, *reading.values_si[i])
                                             : QStringLiteral("–"),
                        units_.unit_name(channels[i].quantity));
    return out.join(QStringLiteral("   "));
}

void InstrumentBar::heard() {
    show_state();
    if (link_.setup().on_its_button && link_.latest()->state == instrument::LineState::Value)
        emit sent_by_itself();
}

void InstrumentBar::show_state() {
    const auto state = link_.state();
    hand_->setVisible(standing_in_);
    try_->setVisible(!standing_in_);
    QString text;
    if (state == InstrumentLink::State::Opening)
        text = tr("connecting…");
    else if (state == InstrumentLink::State::Lost)
        text = tr("▲ lost, tried again");
    else if (state == InstrumentLink::State::Open)
        text = link_.latest() ? shown(*link_.latest()) : tr("nothing yet");
    if (standing_in_ && !text.isEmpty())
        text = tr("Stand-in: %1").arg(text);
    shows_->setText(text);
    shows_->setToolTip(text);
}

bool InstrumentBar::there() const {
    return link_.state() != InstrumentLink::State::Closed;
}

std::vector<InstrumentValue> InstrumentBar::read_now() {
    const QString name = link_.setup().name;
    if (link_.state() != InstrumentLink::State::Open) {
        emit message(tr("Nothing was taken: %1 is not connected.").arg(name));
        return {};
    }
    if (!link_.fresh()) {
        emit message(tr("Nothing was taken: %1 has sent nothing for %2 s.")
                         .arg(name)
                         .arg(InstrumentLink::kFresh_ms / 1000));
        return {};
    }
    const instrument::LineReading& reading = *link_.latest();
    if (reading.state != instrument::LineState::Value) {
        emit message(tr("Nothing was taken: %1.").arg(phrase(reading.why)));
        return {};
    }
    std::vector<InstrumentValue> out;
    const auto& channels = link_.setup().channels;
    for (std::size_t i = 0; i < channels.size(); ++i)
        if (reading.values_si[i])
            out.push_back({channels[i], *reading.values_si[i]});
    return out;
}

void InstrumentBar::was_taken() {
    link_.send(link_.setup().after_reading);
}

} // namespace bathmos::app
