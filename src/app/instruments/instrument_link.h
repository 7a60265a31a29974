// The line to a device: bytes in over a serial port or the network, lines out, read by its channels. Taken up
// again by itself where it breaks.
#pragma once

#include "app/instruments/instrument_setup.h"
#include "core/instrument/line_splitter.h"

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <memory>

class QIODevice;

namespace bathmos::app {

class InstrumentLink : public QObject {
    Q_OBJECT
  public:
    enum class State { Closed, Opening, Open, Lost };
    /// How old the last line may be for its reading to be what stands there now.
    static constexpr int kFresh_ms = 2000;

    explicit InstrumentLink(QObject* parent = nullptr);
    ~InstrumentLink() override;

    void open(const InstrumentSetup& setup);
    void close();
    State state() const { return state_; }
    const InstrumentSetup& setup() const { return setup_; }
    /// What the last line said; empty before the first.
    const std::optional<instrument::LineReading>& latest() const { return latest_; }
    bool fresh() const { return latest_ && since_line_.isValid() && since_line_.elapsed() <= kFresh_ms; }
    /// Sends a line; nothing happens while it is not open.
    void send(const QString& text);

  signals:
    void line(const QString& raw);
    void state_changed();
    /// What went wrong, and what happens next.
    void told(const QString& what);

  private:
    void connect_serial();
    void connect_network();
    void opened();
    void lost(const QString& why);
    void read();
    void set_state(State state);
    void drop_device();

    InstrumentSetup setup_;
    QIODevice* device_ = nullptr;
    instrument::LineSplitter lines_;
    std::optional<instrument::LineReading> latest_;
    QElapsedTimer since_line_;
    QTimer again_, ask_;
    State state_ = State::Closed;
    bool lost_told_ = false, long_told_ = false;
};

} // namespace bathmos::app
