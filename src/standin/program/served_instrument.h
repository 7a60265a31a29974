// An instrument behind a pseudo-terminal or a port of the loopback: a line every so often, commands heard.
#pragma once

#include "core/instrument/line_splitter.h"
#include "standin/bench/bench_instruments.h"

#include <QTcpServer>
#include <QTimer>
#include <string>
#include <string_view>

class QSocketNotifier;
class QTcpSocket;

namespace bathmos::standin {

class ServedInstrument : public QObject {
  public:
    ServedInstrument(const InstrumentSetup& setup, double every_s);
    ~ServedInstrument() override;
    ServedInstrument(const ServedInstrument&) = delete;
    ServedInstrument& operator=(const ServedInstrument&) = delete;

    /// "tcp 127.0.0.1:PORT"; "" where no port is to be had.
    std::string listen();
    /// "terminal /dev/pts/N"; "" where none is to be had.
    std::string open_terminal();
    /// Bytes of somebody: each line is a command.
    void hear(std::string_view bytes);
    const std::string& problem() const { return problem_; }

  private:
    void tell(const std::string& line);

    BenchInstrument instrument_;
    instrument::LineSplitter heard_;
    QTcpServer server_;
    QList<QTcpSocket*> listeners_;
    QTimer timer_;
    int terminal_ = -1;
    std::string problem_;
};

} // namespace bathmos::standin
