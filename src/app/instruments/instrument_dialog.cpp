#include "app/instruments/instrument_dialog.h"

#include "app/text/words.h"
#include "app/theme/theme.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QGridLayout>
#include <QGroupBox>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSerialPortInfo>
#include <QSpinBox>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr int kLinesKept = 200;
enum Place { kSerial, kNetwork };

// Quantities that devices of a bench read; the first stands for a row that is not used.
const std::vector<std::pair<QString, int>>& readable() {
    const auto said = [](const char* text) { return QCoreApplication::translate("InstrumentDialog", text); };
    static const std::vector<std::pair<QString, int>> all = {
        {said("nothing"), -1},
        {said("length"), static_cast<int>(Quantity::Length)},
        {said("force"), static_cast<int>(Quantity::Force)},
        {said("mass"), static_cast<int>(Quantity::Mass)},
        {said("angle"), static_cast<int>(Quantity::Angle)},
        {said("time"), static_cast<int>(Quantity::Time)},
        {said("speed"), static_cast<int>(Quantity::Speed)},
        {said("temperature"), static_cast<int>(Quantity::Temperature)}};
    return all;
}

QLineEdit* named_edit(const char* name, const QString& text, const QString& tip) {
    auto* out = new QLineEdit(text);
    out->setObjectName(QLatin1String(name));
    out->setToolTip(tip);
    return out;
}

} // namespace

InstrumentDialog::InstrumentDialog(const InstrumentSetup& setup, DisplayUnits& units, QWidget* parent)
    : QDialog(parent), units_(units) {
    setObjectName(QStringLiteral("instrument_dialog"));
    setWindowTitle(tr("Device"));
    resize(720, 620);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(make_place(setup));
    layout->addWidget(make_lines(setup));
    layout->addWidget(make_trial(), 1);
    problem_ = new QLabel;
    problem_->setObjectName(QStringLiteral("instrument_problem"));
    problem_->setWordWrap(true);
    layout->addWidget(problem_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    accept_ = buttons->addButton(tr("Remember and connect"), QDialogButtonBox::AcceptRole);
    accept_->setObjectName(QStringLiteral("instrument_accept"));
    connect(this, &QDialog::finished, this, [this] { link_.close(); }); // a serial port has one listener
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons);
    connect(&link_, &InstrumentLink::line, this, [this](const QString& raw) {
        last_line_ = raw;
        heard_->appendPlainText(raw);
        look();
    });
    connect(&link_, &InstrumentLink::told, this,
            [this](const QString& what) { heard_->appendPlainText(what); });
    look();
}

QWidget* InstrumentDialog::make_place(const InstrumentSetup& setup) {
    auto* box = new QGroupBox(tr("Where it is"));
    place_ = new QFormLayout(box);
    name_ = named_edit("instrument_name", setup.name, tr("It is remembered by that: spring tester, left"));
    place_->addRow(tr("Name"), name_);
    where_ = new QComboBox;
    where_->setObjectName(QStringLiteral("instrument_where"));
    where_->setAccessibleName(tr("Line"));
    where_->addItems({tr("serial port"), tr("network")});
    where_->setCurrentIndex(setup.network ? kNetwork : kSerial);
    place_->addRow(tr("Line"), where_);
    port_ = new QComboBox;
    port_->setObjectName(QStringLiteral("instrument_port"));
    port_->setAccessibleName(tr("Port"));
    port_->setEditable(true);
    for (const QSerialPortInfo& one : QSerialPortInfo::availablePorts())
        port_->addItem(one.systemLocation());
    port_->setEditText(setup.port.isEmpty() && port_->count() > 0 ? port_->itemText(0) : setup.port);
    place_->addRow(tr("Port"), port_);
    baud_ = new QComboBox;
    baud_->setObjectName(QStringLiteral("instrument_baud"));
    baud_->setAccessibleName(tr("Bits a second"));
    for (const int rate : {1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200})
        baud_->addItem(QString::number(rate), rate);
    baud_->setCurrentIndex(std::max(0, baud_->findData(setup.baud)));
    place_->addRow(tr("Bits a second"), baud_);
    host_ = named_edit("instrument_host", setup.host, tr("Name or address"));
    place_->addRow(tr("Host"), host_);
    host_port_ = new QSpinBox;
    host_port_->setObjectName(QStringLiteral("instrument_host_port"));
    host_port_->setRange(0, 65535);
    host_port_->setValue(setup.host_port);
    place_->addRow(tr("Its port"), host_port_);
    const auto arrange = [this] {
        const bool network = where_->currentIndex() == kNetwork;
        for (QWidget* one : {static_cast<QWidget*>(port_), static_cast<QWidget*>(baud_)})
            place_->setRowVisible(one, !network);
        for (QWidget* one : {static_cast<QWidget*>(host_), static_cast<QWidget*>(host_port_)})
            place_->setRowVisible(one, network);
        look();
    };
    connect(where_, &QComboBox::currentIndexChanged, this, arrange);
    for (QLineEdit* one : {name_, host_, port_->lineEdit()})
        connect(one, &QLineEdit::textChanged, this, &InstrumentDialog::look);
    connect(host_port_, &QSpinBox::valueChanged, this, &InstrumentDialog::look);
    arrange();
    return box;
}

InstrumentDialog::ChannelRow InstrumentDialog::make_channel(int number, const InstrumentSetup& setup) {
    ChannelRow row;
    const auto at = static_cast<std::size_t>(number);
    const bool known = at < setup.channels.size();
    const instrument::Channel channel = known ? setup.channels[at] : instrument::Channel{};
    const auto name = [&](const char* what) {
        return QStringLiteral("instrument_%1_%2").arg(QLatin1String(what)).arg(number + 1);
    };
    row.quantity = new QComboBox;
    row.quantity->setObjectName(name("quantity"));
    row.quantity->setAccessibleName(tr("Number %1 of a line").arg(number + 1));
    for (const auto& [label, quantity] : readable())
        row.quantity->addItem(label, quantity);
    row.quantity->setCurrentIndex(known ? row.quantity->findData(static_cast<int>(channel.quantity))
                                        : (number == 0 ? 1 : 0));
    row.before = new QLineEdit(words(channel.before));
    row.before->setObjectName(name("before"));
    row.before->setAccessibleName(tr("Text before number %1").arg(number + 1));
    row.before->setPlaceholderText(tr("the next number"));
    row.unit = new QComboBox;
    row.unit->setObjectName(name("unit"));
    row.unit->setAccessibleName(tr("Unit of number %1").arg(number + 1));
    row.reversed = new QCheckBox(tr("counts the other way"));
    row.reversed->setObjectName(name("reversed"));
    row.reversed->setChecked(channel.reversed);
    row.feeds = channel.feeds;
    fill_units(row, words(channel.unit));
    return row;
}

void InstrumentDialog::fill_units(const ChannelRow& row, const QString& now) {
    row.unit->clear();
    const int quantity = row.quantity->currentData().toInt();
    if (quantity >= 0)
        for (const std::string& unit : instrument::units_of(static_cast<Quantity>(quantity)))
            row.unit->addItem(words(unit));
    row.unit->setCurrentIndex(std::max(0, row.unit->findText(now)));
}

QWidget* InstrumentDialog::make_lines(const InstrumentSetup& setup) {
    auto* box = new QGroupBox(tr("What a line holds"));
    auto* grid = new QGridLayout(box);
    grid->addWidget(new QLabel(tr("number")), 0, 0);
    grid->addWidget(new QLabel(tr("text before it")), 0, 1);
    grid->addWidget(new QLabel(tr("unit, where the line names none")), 0, 2);
    for (int i = 0; i < static_cast<int>(rows_.size()); ++i) {
        ChannelRow& row = rows_[static_cast<std::size_t>(i)];
        row = make_channel(i, setup);
        grid->addWidget(row.quantity, i + 1, 0);
        grid->addWidget(row.before, i + 1, 1);
        grid->addWidget(row.unit, i + 1, 2);
        grid->addWidget(row.reversed, i + 1, 3);
        connect(row.quantity, &QComboBox::currentIndexChanged, this, [this, i] {
            fill_units(rows_[static_cast<std::size_t>(i)], {});
            look();
        });
        connect(row.before, &QLineEdit::textChanged, this, &InstrumentDialog::look);
        connect(row.unit, &QComboBox::currentIndexChanged, this, &InstrumentDialog::look);
        connect(row.reversed, &QCheckBox::toggled, this, &InstrumentDialog::look);
    }
    button_ = new QCheckBox(tr("It sends at its own button: take each line as it comes"));
    button_->setObjectName(QStringLiteral("instrument_button"));
    button_->setChecked(setup.on_its_button);
    grid->addWidget(button_, 4, 0, 1, 4);
    asks_ = named_edit("instrument_asks", setup.asks, tr("Only where a device speaks when it is asked"));
    after_ = named_edit("instrument_after", setup.after_reading, tr("Usually nothing"));
    grid->addWidget(new QLabel(tr("Ask it with")), 5, 0);
    grid->addWidget(asks_, 5, 1);
    grid->addWidget(new QLabel(tr("Send after a reading")), 5, 2);
    grid->addWidget(after_, 5, 3);
    return box;
}

QWidget* InstrumentDialog::make_trial() {
    auto* box = new QGroupBox(tr("Tried on what it sends"));
    auto* layout = new QVBoxLayout(box);
    heard_ = new QPlainTextEdit;
    heard_->setObjectName(QStringLiteral("instrument_heard"));
    heard_->setAccessibleName(tr("Lines that were heard"));
    heard_->setReadOnly(true);
    heard_->setMaximumBlockCount(kLinesKept);
    heard_->setFont(Theme::number_font(12));
    auto* listen = new QPushButton(tr("Listen"));
    listen->setObjectName(QStringLiteral("instrument_listen"));
    connect(listen, &QPushButton::clicked, this, &InstrumentDialog::try_it);
    trial_ = named_edit("instrument_trial", {}, tr("A line as the manual prints it"));
    trial_->setPlaceholderText(tr("or type a line here"));
    connect(trial_, &QLineEdit::textChanged, this, [this](const QString& text) {
        last_line_ = text;
        look();
    });
    auto* across = new QHBoxLayout;
    across->addWidget(listen);
    across->addWidget(trial_, 1);
    layout->addLayout(across);
    layout->addWidget(heard_, 1);
    reads_ = new QLabel;
    reads_->setObjectName(QStringLiteral("instrument_reads"));
    reads_->setFont(Theme::number_font(12));
    reads_->setWordWrap(true);
    layout->addWidget(reads_);
    return box;
}

std::vector<instrument::Channel> InstrumentDialog::channels() const {
    std::vector<instrument::Channel> out;
    for (const ChannelRow& row : rows_) {
        const int quantity = row.quantity ? row.quantity->currentData().toInt() : -1;
        if (quantity >= 0)
            out.push_back({row.quantity->currentText().toStdString(), static_cast<Quantity>(quantity),
                           row.before->text().toStdString(), row.unit->currentText().toStdString(),
                           row.reversed->isChecked(), row.feeds});
    }
    return out;
}

InstrumentSetup InstrumentDialog::setup() const {
    InstrumentSetup out;
    out.name = name_->text().trimmed();
    out.network = where_->currentIndex() == kNetwork;
    out.port = port_->currentText().trimmed();
    out.baud = baud_->currentData().toInt();
    out.host = host_->text().trimmed();
    out.host_port = static_cast<quint16>(host_port_->value());
    out.channels = channels();
    out.on_its_button = button_->isChecked();
    out.asks = asks_->text();
    out.after_reading = after_->text();
    return out;
}

void InstrumentDialog::try_it() {
    InstrumentSetup now = setup();
    now.after_reading.clear();
    if (now.name.isEmpty())
        now.name = tr("The device");
    if (const QString problem = problem_of(now); !problem.isEmpty())
        return problem_->setText(problem);
    heard_->clear();
    link_.open(now);
}

void InstrumentDialog::look() {
    if (!accept_) // still being built
        return;
    const QString problem = problem_of(setup());
    problem_->setText(problem);
    accept_->setEnabled(problem.isEmpty());
    if (last_line_.isEmpty())
        return reads_->setText(tr("Listen, or type a line: what is read from it stands here."));
    const auto all = channels();
    const instrument::LineReading reading = instrument::read_line(last_line_.toStdString(), all);
    QStringList out;
    for (std::size_t i = 0; i < reading.values_si.size(); ++i)
        if (reading.values_si[i])
            out << QStringLiteral("%1 %2").arg(phrase(all[i].label),
                                               units_.text(all[i].quantity, *reading.values_si[i]));
    reads_->setText(reading.state == instrument::LineState::Value
                        ? tr("reads: %1").arg(out.join(QStringLiteral(", ")))
                        : QStringLiteral("▲ %1").arg(phrase(reading.why)));
}

} // namespace bathmos::app
