// The program that plays instruments, started beside the window and ended with it.
#pragma once

#include "app/instruments/instrument_setup.h"

#include <QObject>
#include <QProcess>

namespace bathmos::app {

/// Which instrument plays along with a kind of sheet, what it needs to know, and what its lines hold.
struct StandinKind {
    QString name;
    QStringList options;
    std::vector<instrument::Channel> channels;
};
/// `heights_mm`: where a set of springs is read. Empty where no instrument goes with that kind of sheet.
std::optional<StandinKind> standin_for(const std::string& sheet_kind, const QList<double>& heights_mm);

class StandinProcess : public QObject {
    Q_OBJECT
  public:
    explicit StandinProcess(QObject* parent = nullptr);
    ~StandinProcess() override;
    /// Starts it, over the one that runs.
    void start(const StandinKind& kind, const QString& name);
    void stop();
    bool running() const { return process_ && process_->state() != QProcess::NotRunning; }
    /// Where the program is: beside the window's, in the build's folder, or on the path; "" where it is not.
    static QString program();

  signals:
    /// It waits at this place.
    void ready(const InstrumentSetup& setup);
    void failed(const QString& why);

  private:
    QProcess* process_ = nullptr;
};

} // namespace bathmos::app
