// What the window takes in: the demo, dropped files, imports; and finding things by name.
#include "app/desk/station.h"
#include "app/help/help_panel.h"
#include "app/shell/demo_project.h"
#include "app/shell/find_box.h"
#include "app/shell/main_window.h"
#include "app/stations/dyno/dyno_station.h"
#include "app/stations/lobe/lobe_station.h"
#include "app/stations/rig/rig_station.h"
#include "app/text/words.h"
#include "io/file/file_kind.h"

#include <QAction>
#include <QFile>
#include <QFileInfo>
#include <QStackedWidget>
#include <algorithm>

namespace bathmos::app {

// The demo in a project of the user's own, and the tour through it.
void MainWindow::see_demo() {
    const QString shipped = demo_from_.isEmpty() ? shipped_demo() : demo_from_;
    if (shipped.isEmpty())
        return show_message(tr("The demo is not beside the program: ./dev demo makes it in a checkout."));
    try {
        const QString copy = demo_copy(shipped, demo_folder_);
        if (QFileInfo(copy).absoluteFilePath() != QFileInfo(document_.path()).absoluteFilePath() &&
            !settled(files_.open_leaving(copy)))
            return;
    } catch (const InputError& error) {
        return show_message(phrase(error.what()));
    }
    if (!tour_)
        tour_ = new Tour(
            demo_tour(), theme_, [this](const QString& link) { show_link(link); }, this);
    tour_->begin();
}

void MainWindow::find() {
    auto* box = new FindBox(findables(), this);
    box->open();
}

QVector<Findable> MainWindow::findables() {
    QVector<Findable> out;
    for (QAction* action : actions_.all())
        if (action->isVisible() && action->objectName() != QStringLiteral("find"))
            out.push_back({Findable::Kind::Action,
                           action->text(),
                           action->shortcut().toString(QKeySequence::NativeText),
                           {},
                           [action] { action->trigger(); }});
    std::stable_sort(out.begin(), out.end(), [](const Findable& a, const Findable& b) {
        return a.title.localeAwareCompare(b.title) < 0;
    });
    QFile glossary(QStringLiteral(":/docs/glossary.md"));
    if (glossary.open(QIODevice::ReadOnly))
        for (Findable& word : words_of_glossary(QString::fromUtf8(glossary.readAll()))) {
            word.go = [this, term = word.title] {
                help_->show_page(QStringLiteral("glossary"));
                help_->find(term);
            };
            out.push_back(word);
        }
    for (const LexiconEntry& entry : help_->lexicon())
        out.push_back({Findable::Kind::Word, entry.title, tr("what it is, how it is seen, what is done"),
                       entry.markdown, [this, key = entry.keys.value(0)] { help_->show_entry(key); }});
    for (int i = 0; i < stack_->count(); ++i) {
        auto* station = static_cast<Station*>(stack_->widget(i));
        for (Findable& piece : paragraphs_of_help(station->title(), station->help())) {
            piece.go = [this, name = station->objectName(), start = piece.detail.left(24)] {
                show_station(name);
                help_->show();
                show_help();
                help_->find(start);
            };
            out.push_back(piece);
        }
    }
    return out;
}

void MainWindow::take_files(const QStringList& paths) {
    QMap<QString, QStringList> by_station;
    for (const QString& path : paths)
        try {
            switch (io::kind_of_file(native(path))) {
            case io::FileKind::Project:
            case io::FileKind::Train:
                settled(files_.open_leaving(path));
                break;
            case io::FileKind::Known:
                guide_->open_file(path);
                break;
            case io::FileKind::Rig:
                by_station[QStringLiteral("station_rig")] << path;
                break;
            case io::FileKind::Pull:
                by_station[QStringLiteral("station_dyno")] << path;
                break;
            case io::FileKind::Lobe:
                by_station[QStringLiteral("station_lobe")] << path;
                break;
            case io::FileKind::Sheet:
                by_station[QStringLiteral("station_bench")] << path;
                break;
            case io::FileKind::Campaign:
                by_station[QStringLiteral("station_plan")] << path;
                break;
            case io::FileKind::Picture:
            case io::FileKind::Unknown:
                by_station[QStringLiteral("station_log")] << path;
            }
        } catch (const InputError& error) {
            show_message(tr("The file was not taken. %1").arg(phrase(error.what())));
        }
    for (const auto& [station, files] : by_station.toStdMap()) {
        if (!document_.has_train())
            return show_message(tr("Open a project or a train first: %1 belongs to one.")
                                    .arg(files.join(QStringLiteral(", "))));
        show_station(station);
        static_cast<Station*>(stack_->currentWidget())->take_files(files);
    }
}

void MainWindow::open_again(const QString& project) {
    if (!QFile::exists(project) || !open_train(project))
        return;
    show_message(
        tr("The program ended by itself while %1 was open. It is open again with every edit that was seen; "
           "Help says where the program's log is, for whoever mends it.")
            .arg(QFileInfo(project).fileName()));
}

void MainWindow::import_rig() {
    if (!document_.rigid())
        return show_message(tr("Open a train first: a rig trace is zeroed, aligned and judged against the "
                               "train that was spun."));
    if (const QString path = dialogs_.open_rig(); !path.isEmpty()) {
        show_station(QStringLiteral("station_rig"));
        rig_station_->import_file(path);
    }
}

void MainWindow::import_lobe() {
    const QString path = dialogs_.open_gauge();
    if (path.isEmpty())
        return;
    show_station(QStringLiteral("station_lobe"));
    lobe_station_->import_file(path);
}

void MainWindow::import_pull() {
    if (!document_.has_train())
        return show_message(
            tr("Open a project or a train first: a pull belongs to the revision that it was made with."));
    if (const QString path = dialogs_.open_pull(); !path.isEmpty()) {
        show_station(QStringLiteral("station_dyno"));
        dyno_station_->import_file(path);
    }
}

} // namespace bathmos::app
