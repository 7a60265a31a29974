#include "app/instruments/instrument_link.h"

#include "app/text/words.h"

#include <QSerialPort>
#include <QTcpSocket>

namespace bathmos::app {

namespace {
constexpr int kAgain_ms = 1500, kAsk_ms = 500;
constexpr qint64 kMostBytes = 1 << 20; // at once, of a device that floods
} // namespace

InstrumentLink::InstrumentLink(QObject* parent) : QObject(parent) {
    again_.setSingleShot(true);
    again_.setInterval(kAgain_ms);
    connect(&again_, &QTimer::timeout, this,
            [this] { setup_.network ? connect_network() : connect_serial(); });
    ask_.setInterval(kAsk_ms);
    connect(&ask_, &QTimer::timeout, this, [this] { send(setup_.asks); });
}

InstrumentLink::~InstrumentLink() {
    drop_device();
}

void InstrumentLink::set_state(State state) {
    if (state_ == state)
        return;
    state_ = state;
    emit state_changed();
}

void InstrumentLink::drop_device() {
    if (!device_)
        return;
    device_->disconnect(this);
    device_->close();
    device_->deleteLater();
    device_ = nullptr;
}

void InstrumentLink::open(const InstrumentSetup& setup) {
    close();
    setup_ = setup;
    lost_told_ = long_told_ = false;
    set_state(State::Opening);
    setup.network ? connect_network() : connect_serial();
}

void InstrumentLink::close() {
    again_.stop();
    ask_.stop();
    drop_device();
    lines_ = {};
    latest_.reset();
    set_state(State::Closed);
}

void InstrumentLink::connect_serial() {
    drop_device();
    auto* port = new QSerialPort(setup_.port, this);
    device_ = port;
    port->setBaudRate(setup_.baud);
    connect(port, &QSerialPort::errorOccurred, this, [this, port](QSerialPort::SerialPortError error) {
        if (error != QSerialPort::NoError && error != QSerialPort::TimeoutError && port == device_)
            lost(port->errorString());
    });
    if (port->open(QIODevice::ReadWrite))
        opened();
}

void InstrumentLink::connect_network() {
    drop_device();
    auto* socket = new QTcpSocket(this);
    device_ = socket;
    connect(socket, &QTcpSocket::connected, this, &InstrumentLink::opened);
    connect(socket, &QTcpSocket::errorOccurred, this, [this, socket] {
        if (socket == device_)
            lost(socket->errorString());
    });
    socket->connectToHost(setup_.host, setup_.host_port);
}

void InstrumentLink::opened() {
    connect(device_, &QIODevice::readyRead, this, &InstrumentLink::read);
    lines_ = {};
    if (lost_told_)
        emit told(tr("%1 is there again.").arg(setup_.name));
    lost_told_ = false;
    if (!setup_.asks.isEmpty())
        ask_.start();
    set_state(State::Open);
}

// Told once for each time it goes; what was taken before stays taken.
void InstrumentLink::lost(const QString& why) {
    ask_.stop();
    latest_.reset();
    if (!lost_told_)
        emit told(
            tr("%1, %2: %3. Readings that were taken are kept; it is tried again until it answers. Check "
               "plug, power and settings.")
                .arg(setup_.name, place_of(setup_), why));
    lost_told_ = true;
    set_state(State::Lost);
    QIODevice* gone = device_;
    device_ = nullptr; // within its own signal: closed by the event loop
    if (gone) {
        gone->disconnect(this);
        gone->deleteLater();
    }
    again_.start();
}

void InstrumentLink::read() {
    const QByteArray bytes = device_->read(kMostBytes);
    for (const std::string& one : lines_.add({bytes.constData(), static_cast<std::size_t>(bytes.size())})) {
        latest_ = instrument::read_line(one, setup_.channels);
        since_line_.start();
        emit line(words(one));
        if (!device_) // somebody closed it
            return;
    }
    if (lines_.thrown_away() > 0 && !long_told_) {
        long_told_ = true;
        emit told(tr("%1 sends no lines of text: is the speed of the port right?").arg(setup_.name));
    }
    if (device_->bytesAvailable() > 0)
        QTimer::singleShot(0, this, [this] {
            if (device_)
                read();
        });
}

void InstrumentLink::send(const QString& text) {
    if (state_ == State::Open && device_ && !text.isEmpty())
        device_->write((text + QStringLiteral("\r\n")).toUtf8());
}

} // namespace bathmos::app
