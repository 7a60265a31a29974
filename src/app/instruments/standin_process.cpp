#include "app/instruments/standin_process.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QRandomGenerator>
#include <QStandardPaths>

namespace bathmos::app {

namespace {

constexpr int kEnd_ms = 2000;

instrument::Channel channel(const QString& label, Quantity quantity, std::string before,
                            std::vector<std::string> feeds = {}) {
    return {label.toStdString(), quantity, std::move(before), {}, false, std::move(feeds)};
}

} // namespace

std::optional<StandinKind> standin_for(const std::string& kind, const QList<double>& heights_mm) {
    const auto said = [](const char* text) { return QCoreApplication::translate("Standin", text); };
    const instrument::Channel height = channel(said("height"), Quantity::Length, "H"),
                              load = channel(said("load"), Quantity::Force, "F");
    if (kind == "spring")
        return StandinKind{QStringLiteral("spring_tester"), {}, {height, load}};
    if (kind == "spring_set") {
        QStringList at;
        for (const double one : heights_mm)
            at << QString::number(one, 'f', 3);
        if (at.isEmpty())
            at << QStringLiteral("46");
        return StandinKind{QStringLiteral("spring_tester"),
                           {QStringLiteral("--parts"), QStringLiteral("16"), QStringLiteral("--at"),
                            at.join(QLatin1Char(',')), QStringLiteral("--slip"),
                            QStringLiteral("tired_spring")},
                           {load}};
    }
    if (kind == "ratio")
        return StandinKind{QStringLiteral("two_dials"),
                           {},
                           {channel(said("lobe"), Quantity::Length, "A", {"rise_mm"}),
                            channel(said("valve"), Quantity::Length, "B", {"lift_mm", "working.lift_mm"})}};
    if (kind == "stiffness")
        return StandinKind{
            QStringLiteral("load_and_dial"),
            {},
            {channel(said("force"), Quantity::Force, "F"), channel(said("dial"), Quantity::Length, "D")}};
    if (kind == "head")
        return StandinKind{QStringLiteral("height_micrometer"),
                           {},
                           {channel(said("height"), Quantity::Length, "", {"height_mm"})}};
    if (kind == "height")
        return StandinKind{QStringLiteral("ball_gauge"), {}, {channel(said("depth"), Quantity::Length, "")}};
    if (kind == "weigh" || kind == "weigh_set" || kind == "rocker_inertia" || kind == "rocker_scale")
        return StandinKind{QStringLiteral("scale"),
                           {QStringLiteral("--parts"), QStringLiteral("16")},
                           {channel(said("mass"), Quantity::Mass, "")}};
    if (kind == "degree_wheel")
        return StandinKind{
            QStringLiteral("profile_gauge"),
            {},
            {channel(said("angle"), Quantity::Angle, "A"), channel(said("rise"), Quantity::Length, "L")}};
    return std::nullopt;
}

StandinProcess::StandinProcess(QObject* parent) : QObject(parent) {}

StandinProcess::~StandinProcess() {
    stop();
}

QString StandinProcess::program() {
    const QString name = QStringLiteral("bathmos-standin"), here = QCoreApplication::applicationDirPath();
    for (const QString& folder :
         {here, here + QStringLiteral("/../standin"), here + QStringLiteral("/../src/standin")})
        if (const QFileInfo file(folder + QLatin1Char('/') + name); file.isExecutable() && file.isFile())
            return file.canonicalFilePath();
    return QStandardPaths::findExecutable(name);
}

void StandinProcess::start(const StandinKind& kind, const QString& name) {
    stop();
    const QString path = program();
    if (path.isEmpty())
        return emit failed(tr("The program bathmos-standin is not beside this one: install it with it."));
    process_ = new QProcess(this);
    connect(process_, &QProcess::readyReadStandardOutput, this, [this, kind, name] {
        if (!process_->canReadLine())
            return;
        const QString at = QString::fromUtf8(process_->readLine()).trimmed(); // "tcp 127.0.0.1:4001"
        InstrumentSetup setup;
        setup.name = name;
        setup.network = true;
        setup.host = at.section(QLatin1Char(' '), 1).section(QLatin1Char(':'), 0, 0);
        setup.host_port = at.section(QLatin1Char(':'), -1).toUShort();
        setup.channels = kind.channels;
        setup.after_reading = QStringLiteral("next");
        emit ready(setup);
    });
    connect(process_, &QProcess::errorOccurred, this,
            [this, path] { emit failed(tr("%1 does not run: %2").arg(path, process_->errorString())); });
    QStringList options{kind.name, QStringLiteral("--seed"),
                        QString::number(QRandomGenerator::global()->bounded(1, 1 << 20))};
    process_->start(path, options + kind.options);
}

void StandinProcess::stop() {
    if (!process_)
        return;
    process_->disconnect(this);
    process_->closeWriteChannel(); // it ends with its input
    if (process_->state() != QProcess::NotRunning && !process_->waitForFinished(kEnd_ms)) {
        process_->kill();
        process_->waitForFinished(kEnd_ms);
    }
    delete process_;
    process_ = nullptr;
}

} // namespace bathmos::app
