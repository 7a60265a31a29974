// bathmos: the window. Arguments: a train file, a rig trace, and for pictures a folder to write them to.
#include "app/language/language.h"
#include "app/settings/settings.h"
#include "app/shell/guarded_application.h"
#include "app/shell/log_file.h"
#include "app/shell/main_window.h"
#include "app/shell/open_mark.h"
#include "app/shell/recovery_slot.h"
#include "app/shots.h"
#include "app/text/words.h"
#include "app/widgets/remembered.h"
#include "core/problem/input_error.h"

#include <QCommandLineParser>
#include <QIcon>
#include <QProcess>
#include <QStandardPaths>
#include <algorithm>
#include <string_view>

using namespace bathmos;
using namespace bathmos::app;

namespace {

bool is_asked(int argc, char** argv, std::initializer_list<const char*> options) {
    return std::any_of(argv + 1, argv + argc, [&](const char* given) {
        return std::any_of(options.begin(), options.end(), [&](const char* one) {
            return std::string_view(given).substr(0, std::string_view(given).find('=')) == one;
        });
    });
}

// The size of text goes to the toolkit before there is an application.
void scale_text(int percent) {
    if (percent != 100 && qEnvironmentVariableIsEmpty("QT_SCALE_FACTOR"))
        qputenv("QT_SCALE_FACTOR", QByteArray::number(percent / 100.0));
}

} // namespace

int main(int argc, char** argv) {
    QCoreApplication::setApplicationName(QStringLiteral("bathmos"));
    QCoreApplication::setApplicationVersion(QStringLiteral(BATHMOS_VERSION));
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
    if (is_asked(argc, argv, {"-v", "--version", "-h", "--help", "--help-all"})) { // these need no screen
        QCoreApplication no_window(argc, argv);
        parser.process(no_window);
    }
    const bool pictures = is_asked(argc, argv, {"--shots"});
    Settings settings; // pictures: always the same
    settings.language = QStringLiteral("en");
    if (!pictures)
        settings = read_settings(remembered());
    scale_text(settings.text_percent);
    GuardedApplication application(argc, argv);
    QApplication::setApplicationDisplayName(QStringLiteral("Bathmos"));
    parser.process(application);
    Theme::load_fonts();
    const QString language = speak(application, settings, QLocale::system());
    QApplication::setWindowIcon(
        QIcon::fromTheme(QStringLiteral("bathmos"), QIcon(QStringLiteral(":/docs/bathmos.svg"))));
    QGuiApplication::setDesktopFileName(QStringLiteral("bathmos"));
    std::optional<RecoverySlot> slot;
    WindowOptions options;
    const bool file_given = !parser.positionalArguments().isEmpty();
    options.remember = !pictures;
    options.language = language;
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
        window.show_message(phrase(error.what()));
    }
    window.tell_left_behind();
    window.show();
    if (pictures)
        return write_shots(window, parser.value(shots)) ? 0 : 1;
    const int code = QApplication::exec();
    end_log();
    return code;
}
