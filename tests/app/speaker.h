// A device of text on the loopback.
#pragma once

#include <QPointer>
#include <QTcpServer>
#include <QTcpSocket>

namespace bathmos::test {

// A device on the loopback that says what the test wants.
class Speaker {
  public:
    Speaker() {
        if (!server_.listen(QHostAddress::LocalHost))
            qFatal("no port");
        port = server_.serverPort();
        QObject::connect(&server_, &QTcpServer::newConnection, &server_, [this] {
            line_ = server_.nextPendingConnection();
            QObject::connect(line_, &QTcpSocket::readyRead, line_, [this] { heard += line_->readAll(); });
        });
    }
    bool connected() const { return line_ && line_->state() == QAbstractSocket::ConnectedState; }
    void say(const QByteArray& bytes) {
        line_->write(bytes);
        line_->flush();
    }
    void hang_up() {
        line_->abort();
        line_ = nullptr;
    }
    quint16 port = 0;
    QByteArray heard;

  private:
    QTcpServer server_;
    QPointer<QTcpSocket> line_;
};

} // namespace bathmos::test
