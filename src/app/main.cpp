// bathmos: the window. Arguments: a train file, a rig trace, and for pictures a folder to write them to.
#include "app/shell/guarded_application.h"
#include "app/shell/log_file.h"
#include "app/shell/main_window.h"
#include "app/shell/open_mark.h"
#include "app/shell/recovery_slot.h"
#include "app/shots.h"
#include "core/problem/input_error.h"

#include <QCommandLineParser>
#include <QIcon>
#include <QProcess>
#include <QStandardPaths>

using namespace bathmos;
using namespace bathmos::app;

int main(int argc, char** argv) {
    GuardedApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("bathmos"));
    QApplication::setApplicationDisplayName(QStringLiteral("Bathmos"));
    QApplication::setApplicationVersion(QStringLiteral(BATHMOS_VERSION));
    QCommandLineParser parser;
    parser.setApplicationDescription(
        QStringLiteral("Valve motion, limit speed and rig traces. Its results are advice: makers' "
                       "instructions, local rules and a competent person come first."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("project"),
                                 QStringLiteral("Project (*.bathmos) or train file (*.train.json) to open"),
                                 QStringLiteral("[project]"));
    const QCommandLineOption rig(QStringLiteral("rig"), QStringLiteral("Rig trace to load with it"),
                                 QStringLiteral("file"));
    const QCommandLineOption target(QStringLiteral("target"), QStringLiteral("Target speed, rev/min"),
                                    QStringLiteral("rpm"));
    const QCommandLineOption dark(QStringLiteral("dark"), QStringLiteral("Start in the dark look"));
    const QCommandLineOption shots(QStringLiteral("shots"),
                                   QStringLiteral("Write a picture of each view to this folder and quit"),
                                   QStringLiteral("folder"));
    parser.addOptions({rig, target, dark, shots});
    parser.process(application);
    Theme::load_fonts();
    QApplication::setWindowIcon(
        QIcon::fromTheme(QStringLiteral("bathmos"), QIcon(QStringLiteral(":/docs/bathmos.svg"))));
    QGuiApplication::setDesktopFileName(QStringLiteral("bathmos"));
    const bool pictures = parser.isSet(shots);
    std::optional<RecoverySlot> slot;
    WindowOptions options;
    const bool file_given = !parser.positionalArguments().isEmpty();
    options.remember = !pictures;
    std::optional<OpenMark> mark;
    if (!pictures) {
        const QString data = QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation);
        options.log = begin_log(data + QStringLiteral("/log"), QStringLiteral(BATHMOS_VERSION));
        mark.emplace(data);
        slot.emplace(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation),
                     file_given ? RecoverySlot::First::Empty : RecoverySlot::First::LeftBehind);
        options.recovery_path = slot->path();
        if (slot->others_left_behind())
            options.open_left_behind = [] {
                QProcess::startDetached(QCoreApplication::applicationFilePath(), {});
            };
    }
    MainWindow window(options);
    QObject::connect(&application, &GuardedApplication::fault, &window, &MainWindow::show_message);
    QObject::connect(&application, &GuardedApplication::fault, &window, [] { log_event("fault"); });
    if (parser.isSet(dark))
        window.theme().set_look(Look::Dark);
    const bool recovered = window.document().has_train(); // where no slot was empty
    if (file_given && !recovered)
        window.open_train(parser.positionalArguments().first());
    if (mark) {
        if (!file_given && !recovered && !mark->left_open().isEmpty()) {
            log_event("the run before ended by itself");
            window.open_again(mark->left_open());
        }
        const auto hold = [&] {
            mark->hold(window.document().draft() ? QString() : window.document().path());
        };
        hold();
        QObject::connect(&window.document(), &Document::file_changed, &window, hold);
    }
    if (parser.isSet(target))
        window.document().set_target(parser.value(target).toDouble());
    try {
        if (parser.isSet(rig))
            window.rig().import(parser.value(rig));
    } catch (const InputError& error) {
        window.show_message(QString::fromStdString(error.what()));
    }
    window.tell_left_behind();
    window.show();
    if (pictures)
        return write_shots(window, parser.value(shots)) ? 0 : 1;
    const int code = QApplication::exec();
    end_log();
    return code;
}
