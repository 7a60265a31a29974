// Runs the headless program as others do, and reads what it wrote.
#pragma once

#include <QFile>
#include <QProcess>
#include <nlohmann/json.hpp>

namespace bathmos::test {

using Json = nlohmann::json;

struct Answer {
    int code;
    QString out, error;
};

inline Answer run(const QStringList& arguments) {
    QProcess process;
    process.start(QStringLiteral(BATHMOS_CLI), arguments);
    process.waitForFinished(300000);
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            QString::fromUtf8(process.readAllStandardOutput()),
            QString::fromUtf8(process.readAllStandardError())};
}

inline QStringList lines_of(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly)
               ? QString::fromUtf8(file.readAll()).split(QLatin1Char('\n'), Qt::SkipEmptyParts)
               : QStringList();
}

inline Json json_of(const QString& path) {
    return Json::parse(lines_of(path).join(QLatin1Char('\n')).toStdString());
}

} // namespace bathmos::test
