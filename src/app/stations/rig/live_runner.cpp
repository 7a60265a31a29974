#include "app/stations/rig/live_runner.h"

#include "app/text/words.h"
#include "core/problem/input_error.h"
#include "io/train/train_file.h"

#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

namespace bathmos::app {

namespace {

constexpr int kLook_ms = 33;

} // namespace

LiveRunner::LiveRunner(Document& document, QObject* parent) : QObject(parent), document_(document) {
    timer_.setInterval(kLook_ms);
    connect(&timer_, &QTimer::timeout, this, &LiveRunner::look);
    connect(&standin_, &StandinProcess::ready, this, [this](const InstrumentSetup& at) {
        starting_ = false;
        try {
            connect_to(QStringLiteral("%1:%2").arg(at.host).arg(at.host_port), stops_);
        } catch (const InputError& error) {
            emit failed(phrase(error.what()));
        }
    });
    connect(&standin_, &StandinProcess::failed, this, [this](const QString& why) {
        starting_ = false;
        emit failed(why);
        emit changed();
    });
}

// Beside the project where it has a name, else among the program's own files.
QString LiveRunner::new_recording() const {
    const QString project = document_.draft() ? QString() : document_.file();
    const QDir folder(project.isEmpty()
                          ? QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation)
                          : QFileInfo(project).absolutePath());
    const QString stem =
        project.isEmpty() ? tr("recordings") : QFileInfo(project).completeBaseName() + tr(" recordings");
    folder.mkpath(stem);
    const QString when = QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd hhmmss"));
    QString out;
    for (int n = 0; n == 0 || QFileInfo::exists(out); ++n)
        out = folder.filePath(QStringLiteral("%1/%2%3.rig-stream")
                                  .arg(stem, when, n ? QStringLiteral(" %1").arg(n) : QString()));
    return out;
}

void LiveRunner::connect_to(const QString& address, const std::vector<live::StopLimit>& stops) {
    session::LiveSetup setup;
    std::tie(setup.host, setup.port) = io::host_and_port(address.trimmed().toStdString());
    if (!document_.rigid())
        throw InputError(
            {"", "train", "there is none whose motion could stand beside it", "open a train first"});
    setup.train = document_.train();
    setup.limits = document_.limits();
    setup.stops = stops;
    const QString file = new_recording();
    setup.recording = native(file);
    session_.reset();
    session_.emplace(std::move(setup));
    recording_ = file;
    now_ = session_->snapshot();
    timer_.start();
    emit changed();
}

void LiveRunner::start_standin(const std::vector<live::StopLimit>& stops) {
    if (!document_.rigid())
        return emit failed(tr("Open a train first: the stand-in plays the one in hand."));
    const QString path = folder_.filePath(QStringLiteral("believed.train.json"));
    io::write_train(native(path), document_.train());
    stops_ = stops;
    starting_ = true;
    standin_.start({QStringLiteral("rig"), {path}, {}}, tr("Stand-in rig"));
    emit changed();
}

void LiveRunner::disconnect_rig() {
    timer_.stop();
    session_.reset();
    standin_.stop();
    starting_ = false;
    emit changed();
}

const std::vector<double>& LiveRunner::asked_m() const {
    static const std::vector<double> none;
    return session_ ? session_->asked_m() : none;
}

void LiveRunner::stop_rig(const QString& why) {
    if (session_)
        session_->stop(why.toStdString());
}

void LiveRunner::set_speed(double rpm) {
    if (session_)
        session_->set_speed(rpm);
}

void LiveRunner::hear_device(const live::DeviceReading& reading) {
    if (session_)
        session_->hear_device(reading);
}

void LiveRunner::look() {
    if (!session_)
        return;
    session::LiveSnapshot next = session_->snapshot();
    if (next.number == now_.number && next.samples == now_.samples)
        return;
    now_ = std::move(next);
    emit changed();
}

} // namespace bathmos::app
