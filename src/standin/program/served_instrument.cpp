#include "standin/program/served_instrument.h"

#include <QHostAddress>
#include <QSocketNotifier>
#include <QTcpSocket>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <termios.h>
#include <unistd.h>

namespace bathmos::standin {

namespace {
constexpr qint64 kMostWaiting_bytes = 64 << 10; // of a listener that does not read: lines are left out
}

ServedInstrument::ServedInstrument(const InstrumentSetup& setup, double every_s) : instrument_(setup) {
    connect(&timer_, &QTimer::timeout, this, [this] { tell(instrument_.line()); });
    timer_.start(static_cast<int>(1000 * every_s));
}

ServedInstrument::~ServedInstrument() {
    if (terminal_ >= 0)
        ::close(terminal_);
}

std::string ServedInstrument::listen() {
    connect(&server_, &QTcpServer::newConnection, this, [this] {
        while (QTcpSocket* socket = server_.nextPendingConnection()) {
            listeners_.append(socket);
            connect(socket, &QTcpSocket::readyRead, this,
                    [this, socket] { hear(socket->readAll().toStdString()); });
            connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
                listeners_.removeAll(socket);
                socket->deleteLater();
            });
        }
    });
    if (!server_.listen(QHostAddress::LocalHost)) {
        problem_ = server_.errorString().toStdString();
        return {};
    }
    return fmt::format("tcp 127.0.0.1:{}", server_.serverPort());
}

std::string ServedInstrument::open_terminal() {
    terminal_ = ::posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK);
    if (terminal_ < 0 || ::grantpt(terminal_) != 0 || ::unlockpt(terminal_) != 0) {
        problem_ = std::strerror(errno);
        return {};
    }
    termios raw{};
    ::tcgetattr(terminal_, &raw);
    ::cfmakeraw(&raw);
    ::tcsetattr(terminal_, TCSANOW, &raw);
    auto* notifier = new QSocketNotifier(terminal_, QSocketNotifier::Read, this);
    connect(notifier, &QSocketNotifier::activated, this, [this, notifier] {
        char bytes[512];
        const ssize_t got = ::read(terminal_, bytes, sizeof bytes);
        if (got > 0)
            return hear({bytes, static_cast<std::size_t>(got)});
        notifier->setEnabled(false); // nobody has it open: looked at again with the next line
        QTimer::singleShot(200, notifier, [notifier] { notifier->setEnabled(true); });
    });
    return fmt::format("terminal {}", ::ptsname(terminal_));
}

void ServedInstrument::hear(std::string_view bytes) {
    for (const std::string& command : heard_.add(bytes))
        if (const std::string problem = instrument_.command(command); !problem.empty())
            tell("? " + problem);
        else
            tell(instrument_.line());
}

void ServedInstrument::tell(const std::string& line) {
    const std::string bytes = line + "\r\n";
    for (QTcpSocket* socket : listeners_)
        if (socket->bytesToWrite() < kMostWaiting_bytes)
            socket->write(bytes.data(), static_cast<qint64>(bytes.size()));
    if (terminal_ >= 0) { // one that nobody reads is full at some time: the line is left out
        [[maybe_unused]] const ssize_t written = ::write(terminal_, bytes.data(), bytes.size());
    }
}

} // namespace bathmos::standin
