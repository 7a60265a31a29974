#include "standin/program/served_rig.h"

#include "core/problem/input_error.h"

#include <QCoreApplication>
#include <QHostAddress>
#include <QTcpSocket>
#include <algorithm>
#include <fmt/format.h>
#include <utility>

namespace bathmos::standin {

namespace {

constexpr int kTick_ms = 20;
constexpr double kMostBehind_s = 0.5; // where the machine is too slow: time stands, nothing is left out
constexpr qint64 kMostWaiting_bytes = 256LL << 20; // of a listener that does not read: it is left
constexpr qint64 kFastWaiting_bytes = 4LL << 20;
constexpr double kFastPiece_s = 0.2;
constexpr qint64 kMostLines_bytes = 64 << 10; // of a reader that does not read: lines are left out

} // namespace

ServedRig::ServedRig(const LiveRigSetup& setup, bool fast, double seconds)
    : rig_(setup), fast_(fast), seconds_(seconds) {
    connect(&timer_, &QTimer::timeout, this, [this] { go_on(); });
}

std::string ServedRig::listen(quint16 port) {
    connect(&server_, &QTcpServer::newConnection, this, [this] {
        while (QTcpSocket* socket = server_.nextPendingConnection())
            take(socket);
    });
    if (!server_.listen(QHostAddress::LocalHost, port)) {
        problem_ = server_.errorString().toStdString();
        return {};
    }
    return fmt::format("tcp 127.0.0.1:{}", server_.serverPort());
}

bool ServedRig::say_lines(quint16 port) {
    connect(&lines_, &QTcpServer::newConnection, this, [this] {
        while (QTcpSocket* socket = lines_.nextPendingConnection()) {
            readers_.append(socket);
            connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
                readers_.removeAll(socket);
                socket->deleteLater();
            });
        }
    });
    const bool good = lines_.listen(QHostAddress::LocalHost, port);
    if (!good)
        problem_ = lines_.errorString().toStdString();
    return good;
}

void ServedRig::say_line(const live::Reading& reading) {
    const std::string line =
        fmt::format("n {:.0f} rpm T {:.1f} C\r\n", reading.rpm, reading.oil_C.value_or(0));
    for (QTcpSocket* socket : readers_)
        if (socket->bytesToWrite() < kMostLines_bytes)
            socket->write(line.data(), static_cast<qint64>(line.size()));
}

void ServedRig::take(QTcpSocket* socket) {
    // Who comes later hears the hello as a piece of its own: samples count on.
    const io::Bytes frame = io::rig_frame(rig_.hello());
    socket->write(reinterpret_cast<const char*>(frame.data()), static_cast<qint64>(frame.size()));
    listeners_.push_back({socket, {}});
    connect(socket, &QTcpSocket::readyRead, this, [this, socket] { hear(socket); });
    connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
        std::erase_if(listeners_, [&](const Listener& one) { return one.socket == socket; });
        socket->deleteLater();
        if (listeners_.empty())
            tell(rig_.ask({live::Request::Kind::Stop, 0, 0, 0, "nobody listens"})); // comes down by itself
    });
    if (!timer_.isActive()) {
        clock_.start();
        played_s_ = 0;
        timer_.start(fast_ ? 0 : kTick_ms);
    }
}

void ServedRig::hear(QTcpSocket* socket) {
    const auto at = std::ranges::find(listeners_, socket, &Listener::socket);
    if (at == listeners_.end())
        return;
    const QByteArray bytes = socket->readAll();
    try {
        at->heard.add({reinterpret_cast<const std::uint8_t*>(bytes.constData()),
                       static_cast<std::size_t>(bytes.size())});
        while (const auto content = at->heard.next())
            if (const auto message = io::rig_message(*content))
                if (const auto* request = std::get_if<live::Request>(&*message))
                    tell(rig_.ask(*request));
    } catch (const InputError&) {
        socket->abort();
    }
}

void ServedRig::tell(const live::Message& message) {
    const io::Bytes frame = io::rig_frame(message);
    const std::vector<Listener> listening = listeners_; // one that is left goes from the list
    for (const Listener& one : listening) {
        one.socket->write(reinterpret_cast<const char*>(frame.data()), static_cast<qint64>(frame.size()));
        if (one.socket->bytesToWrite() > kMostWaiting_bytes)
            one.socket->abort();
    }
}

void ServedRig::go_on() {
    if (listeners_.empty())
        return;
    double due_s = kFastPiece_s;
    if (fast_) {
        for (const Listener& one : listeners_)
            if (one.socket->bytesToWrite() > kFastWaiting_bytes)
                return;
    } else {
        const double now_s = 1e-3 * static_cast<double>(clock_.elapsed());
        due_s = std::min(now_s - played_s_, kMostBehind_s);
        if (now_s - played_s_ > kMostBehind_s)
            played_s_ = now_s - kMostBehind_s;
    }
    if (due_s <= 0)
        return;
    try {
        for (const live::Message& message : rig_.advance(due_s)) {
            tell(message);
            if (const auto* reading = std::get_if<live::Reading>(&message))
                say_line(*reading);
        }
    } catch (const InputError& error) {
        if (std::exchange(told_, error.what()) != error.what())
            tell(live::RigEvent{"fault", error.what()});
        rig_.ask({live::Request::Kind::Stop, 0, 0, 0, "fault"});
    }
    played_s_ += due_s;
    if (seconds_ > 0 && played_s_ >= seconds_) {
        timer_.stop();
        for (const Listener& one : listeners_) {
            one.socket->flush();
            one.socket->disconnectFromHost();
        }
        QTimer::singleShot(500, qApp, [] { QCoreApplication::quit(); });
    }
}

} // namespace bathmos::standin
