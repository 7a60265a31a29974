// The window as a person has it: real widgets, keys and clicks, found by object name; questions answered by
// the test.
#pragma once

#include "app/desk/station.h"
#include "app/shell/main_window.h"
#include "app/widgets/refresher.h"
#include "io/project/project_folder.h"
#include "support.h"

#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QLineEdit>
#include <QPrinter>
#include <QPushButton>
#include <QSignalSpy>
#include <QTabWidget>
#include <QTableView>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <memory>

namespace bathmos::test {

using namespace bathmos::app;

constexpr int kPatience_ms = 60000;

/// The nine stations, by the names of their widgets.
inline QStringList station_names() {
    QStringList names;
    for (const char* name : {"train", "lobe", "bench", "motion", "plan", "rig", "dyno", "verdict", "log"})
        names << QStringLiteral("station_") + QLatin1String(name);
    return names;
}

/// A row of data for each station, in the column "name".
inline void station_rows() {
    QTest::addColumn<QString>("name");
    for (const QString& name : station_names())
        QTest::newRow(qPrintable(name)) << name;
}

/// One application for all windows of a test program, fonts loaded once.
inline void prepare_application() {
    static const bool fonts = Theme::load_fonts();
    QVERIFY2(fonts, "the shipped fonts are missing");
}

/// What has this name within another; stops the test program where nothing has.
template <class W>
W* find_in(const QObject& in, const QString& name) {
    auto* found = in.findChild<W*>(name);
    if (!found)
        qFatal("no widget named %s", qPrintable(name));
    return found;
}

class Fixture {
  public:
    explicit Fixture(bool recovery = false) {
        WindowOptions options;
        if (recovery)
            options.recovery_path = recovery_path();
        options.dialogs = Dialogs{
            [this] { return ask("open_train", next_path); },
            [this](const QString&) { return ask("save_train", next_path); },
            [this] { return ask("open_rig", next_path); },
            [this](const QString&) {
                asked.push_back("unsaved");
                return unsaved;
            },
            [this](const QString&) { return ask("save_results", next_path); },
            [this] { return ask("open_folder", next_path); },
            [this](const QString&) { return ask("choose_folder", next_path); },
            [this](const QString&) { return ask("save_project", next_path); },
            [this] { return ask("open_damaged", next_path); },
            [this](const QString&, const QString&, const QString&) { return ask("ask_words", next_words); },
            [this](const QString&) { return ask("save_table", next_path); },
            [this] { return ask("open_table", next_path); },
            [this] { return ask("open_gauge", next_path); },
            [this](const QString&) { return ask("save_file", next_path); },
            [this] { return ask("open_pull", next_path); },
            [this] { return ask("open_campaign", next_path); },
            [this] {
                const QString path = ask("open_sheets", next_path);
                return path.isEmpty() ? QStringList() : path.split(QLatin1Char('\n'));
            },
            [this] { return ask("open_logger", next_path); },
            [this] {
                const QString path = ask("open_files", next_path);
                return path.isEmpty() ? QStringList() : path.split(QLatin1Char('\n'));
            },
            [this](QPrinter& printer) {
                asked.push_back("choose_printer");
                printer.setOutputFileName(print_to);
                return !print_to.isEmpty();
            }};
        window = std::make_unique<MainWindow>(options);
        window->uncertainty().set_automatic(false); // seconds of work that few tests are about
        window->show();
        if (!QTest::qWaitForWindowExposed(window.get()))
            qFatal("the window does not show");
    }
    ~Fixture() { window.reset(); }

    static QString recovery_path() { return folder().filePath("draft.bathmos"); }
    static QTemporaryDir& folder() {
        static QTemporaryDir dir;
        return dir;
    }

    template <class W>
    W* find(const QString& name) {
        return find_in<W>(*window, name);
    }

    void trigger(const char* action) { window->actions_by_id().run(QLatin1String(action)); }

    /// Copies a train of the repository to a place where it may be saved, and opens it.
    void open(const QString& relative) {
        const QString to = folder().filePath(QFileInfo(relative).fileName());
        QFile::remove(to);
        QVERIFY(QFile::copy(source_path(relative), to));
        QVERIFY(QFile::setPermissions(to, QFile::ReadOwner | QFile::WriteOwner));
        QVERIFY2(window->open_train(to), qPrintable(window->message()));
    }
    void open_demo() { open(QStringLiteral("demo/ashgill-a22-intake-after.train.json")); }

    /// A range of few speeds, so that tests are quick.
    void few_speeds() { window->sweep().set_range({5000, 8600, 600}); }
    void wait_for_sweep() {
        QTRY_VERIFY_WITH_TIMEOUT(window->sweep().state() == SweepRunner::State::Done, kPatience_ms);
    }
    void wait_for_rig() {
        QTRY_VERIFY_WITH_TIMEOUT(window->rig().state() != RigSession::State::Running, kPatience_ms);
    }

    /// Chooses the entry of a box that begins so.
    void choose(const char* box, const QString& text) {
        auto* combo = find<QComboBox>(QLatin1String(box));
        const int at = combo->findText(text, Qt::MatchStartsWith);
        QVERIFY2(at >= 0, qPrintable(text));
        combo->setCurrentIndex(at);
        emit combo->activated(at);
        wait_for_redraw();
    }

    /// Until every redraw that was asked for is done, the queued ones of plots too.
    void wait_for_redraw() {
        QTRY_VERIFY_WITH_TIMEOUT(none_waits(), kPatience_ms);
        QCoreApplication::processEvents();
    }
    bool none_waits() const {
        for (const Refresher* refresher : window->findChildren<Refresher*>())
            if (refresher->waiting())
                return false;
        return true;
    }

    /// Types a number into a field as a person does: select all, keys.
    void type(const QString& field, const QString& text) {
        auto* edit = find<QLineEdit>(field);
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
    }

    std::unique_ptr<MainWindow> window;
    QString next_path, next_words;
    QString print_to; ///< file for what is printed; "": nothing is
    Unsaved unsaved = Unsaved::Cancel;
    QList<QByteArray> asked;

  private:
    QString ask(const char* what, const QString& answer) {
        asked.push_back(what);
        return answer;
    }
};

/// The demo project as a file of the test's own.
class ProjectFixture : public Fixture {
  public:
    explicit ProjectFixture(const QString& name) {
        path = folder().filePath(name + ".bathmos");
        QFile::remove(path);
        io::import_project(source_file("demo/project"), path.toStdString());
        QVERIFY2(window->open_train(path), qPrintable(window->message()));
        window->sweep().set_range({7000, 8600, 400});
    }
    Document& document() { return window->document(); }
    void tab(int index) { find<QTabWidget>("train_tabs")->setCurrentIndex(index); }
    void click(const char* name) { QTest::mouseClick(find<QPushButton>(name), Qt::LeftButton); }
    QTableView* list() { return find<QTableView>("shelf_list"); }
    int rows() { return list()->model()->rowCount(); }
    QString cell(int row, int column) { return list()->model()->index(row, column).data().toString(); }
    void select(const QString& name, bool also = false) {
        if (!also)
            list()->clearSelection();
        for (int row = 0; row < rows(); ++row)
            if (cell(row, 1) == name)
                return list()->selectionModel()->select(
                    list()->model()->index(row, 0), QItemSelectionModel::Select | QItemSelectionModel::Rows);
        qFatal("no part named %s", qPrintable(name));
    }
    /// Without what is kept of results as they arrive, which is no edit.
    Project edited() {
        Project out = document().project();
        out.predictions.clear();
        return out;
    }
    Id id_of(const std::string& name) {
        for (const auto& [id, part] : document().project().parts)
            if (part.name == name)
                return id;
        return 0;
    }
    QString path;
};

// Presses a button of the dialogue when it comes; the test fails if it never came.
class Press {
  public:
    bool came = false;
    Press(const QString& dialog, std::function<void(QDialog*)> act) {
        QObject::connect(&timer_, &QTimer::timeout, &timer_, [this, dialog, act] {
            for (QWidget* top : QApplication::topLevelWidgets())
                if (auto* found = qobject_cast<QDialog*>(top);
                    found && found->isVisible() && found->objectName() == dialog) {
                    came = true;
                    timer_.stop();
                    act(found);
                    return;
                }
        });
        timer_.start(10);
    }

  private:
    QTimer timer_;
};

} // namespace bathmos::test
