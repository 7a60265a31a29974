// A running rig beside the window: the session's threads do the work, the window looks at it thirty times a
// second. The stand-in, started from a click, ends with the window.
#pragma once

#include "app/desk/document.h"
#include "app/instruments/standin_process.h"
#include "session/live/live_session.h"

#include <QTemporaryDir>
#include <QTimer>

namespace bathmos::app {

class LiveRunner : public QObject {
    Q_OBJECT
  public:
    explicit LiveRunner(Document& document, QObject* parent = nullptr);

    /// Listens to a rig; what it says is kept from the first byte in a new file. Throws InputError.
    void connect_to(const QString& address, const std::vector<live::StopLimit>& stops);
    /// Plays a rig of the train in hand whose true numbers it keeps to itself.
    void start_standin(const std::vector<live::StopLimit>& stops);
    void disconnect_rig();
    bool on() const { return session_.has_value(); }
    bool starting() const { return starting_; }
    bool plays_along() const { return standin_.running(); }
    const session::LiveSnapshot& now() const { return now_; }
    const std::vector<double>& asked_m() const;
    /// The file of the run that is being made, or of the last one; "" for none.
    QString recording() const { return recording_; }
    void start(const live::Programme& programme) { session_->start(programme); }
    void stop_rig(const QString& why);
    void set_speed(double rpm);
    /// Passed on to the run that is listened to; nothing without one.
    void hear_device(const live::DeviceReading& reading);

  signals:
    void changed();
    void failed(const QString& why);

  private:
    QString new_recording() const;
    void look();

    Document& document_;
    StandinProcess standin_;
    QTemporaryDir folder_;
    std::optional<session::LiveSession> session_;
    session::LiveSnapshot now_;
    std::vector<live::StopLimit> stops_;
    QString recording_;
    QTimer timer_;
    bool starting_ = false;
};

} // namespace bathmos::app
