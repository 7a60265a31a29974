#include "app/shell/log_file.h"

#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/spdlog.h>

#include <QDir>
#include <QSysInfo>
#include <QtGlobal>

namespace bathmos::app {

namespace {

constexpr const char* kLogger = "bathmos";
constexpr std::size_t kMostBytes = 256 * 1024, kFiles = 3;

// Qt's own words name no file of the user's; the rest of what goes through here is for a terminal.
void take_qt(QtMsgType type, const QMessageLogContext&, const QString& text) {
    fprintf(stderr, "%s\n", text.toLocal8Bit().constData());
    if (const auto log = spdlog::get(kLogger); log && type != QtDebugMsg && type != QtInfoMsg)
        log->warn("toolkit: {}", text.left(200).toStdString());
}

} // namespace

QString begin_log(const QString& folder, const QString& version) {
    const QString path = QDir(folder).filePath(QStringLiteral("bathmos.log"));
    try {
        QDir().mkpath(folder);
        const auto log = spdlog::rotating_logger_mt(kLogger, path.toStdString(), kMostBytes, kFiles);
        log->flush_on(spdlog::level::info); // it shall tell of the last thing before an end
        log->info("started: version {}, toolkit {}, {}", version.toStdString(), qVersion(),
                  QSysInfo::prettyProductName().toStdString());
    } catch (const spdlog::spdlog_ex&) { // no room, no right: the program works without
        return {};
    }
    qInstallMessageHandler(take_qt);
    return path;
}

void end_log() {
    if (const auto log = spdlog::get(kLogger))
        log->info("ended");
    qInstallMessageHandler(nullptr);
    spdlog::drop(kLogger);
}

void log_event(const char* what, const QString& which) {
    if (const auto log = spdlog::get(kLogger))
        log->info("{}{}{}", what, which.isEmpty() ? "" : ": ", which.toStdString());
}

} // namespace bathmos::app
