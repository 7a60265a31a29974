// A stand-in rig behind a port of the loopback: samples as they come, requests heard.
#pragma once

#include "io/live/rig_cbor.h"
#include "standin/rig/live_rig.h"

#include <QElapsedTimer>
#include <QTcpServer>
#include <QTimer>
#include <string>

class QTcpSocket;

namespace bathmos::standin {

class ServedRig : public QObject {
  public:
    /// `fast`: as fast as listeners read, not in real time; 0 `seconds`: until it is ended.
    ServedRig(const LiveRigSetup& setup, bool fast, double seconds);

    /// "tcp 127.0.0.1:PORT"; "" where no port is to be had. `port` 0: any.
    std::string listen(quint16 port);
    /// Says speed and oil as lines of text, as a tachometer with a thermometer would: "n 3000 rpm T 84.2 C".
    /// False where the port is not to be had.
    bool say_lines(quint16 port);
    const std::string& problem() const { return problem_; }

  private:
    struct Listener {
        QTcpSocket* socket = nullptr;
        io::FrameSplitter heard;
    };
    void take(QTcpSocket* socket);
    void hear(QTcpSocket* socket);
    void go_on();
    void tell(const live::Message& message);
    void say_line(const live::Reading& reading);

    LiveRig rig_;
    bool fast_;
    double seconds_, played_s_ = 0;
    QElapsedTimer clock_;
    QTimer timer_;
    QTcpServer server_, lines_;
    QList<QTcpSocket*> readers_; ///< of lines
    std::vector<Listener> listeners_;
    std::string problem_, told_;
};

} // namespace bathmos::standin
