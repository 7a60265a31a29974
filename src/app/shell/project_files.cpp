#include "app/shell/project_files.h"

#include "app/text/words.h"
#include "io/project/rescue.h"

#include <QFile>
#include <QFileInfo>
#include <QRegularExpression>

namespace bathmos::app {

ProjectFiles::ProjectFiles(Document& document, const Dialogs& dialogs, QObject* parent)
    : QObject(parent), document_(document), dialogs_(dialogs) {}

bool ProjectFiles::may_leave() {
    if (!document_.has_train() || !document_.modified())
        return true;
    switch (dialogs_.unsaved(QString::fromStdString(document_.train().name))) {
    case Unsaved::Save:
        return keep();
    case Unsaved::Discard:
        return true;
    case Unsaved::Cancel:
        break;
    }
    return false;
}

bool ProjectFiles::take(const QString& path) {
    try {
        document_.open(path);
    } catch (const InputError& error) {
        emit message(tr("%1 was not opened. %2").arg(QFileInfo(path).fileName(), phrase(error.what())));
        return false;
    }
    if (const QString why = document_.read_only_why(); !why.isEmpty())
        emit message(tr("The project %1. You can look at everything; to work on it, save a copy.").arg(why));
    return true;
}

bool ProjectFiles::open(const QString& path) {
    return take(path);
}

bool ProjectFiles::open_leaving(const QString& path) {
    return may_leave() && take(path);
}

bool ProjectFiles::open_asking() {
    if (!may_leave())
        return false;
    const QString path = dialogs_.open_train();
    return !path.isEmpty() && take(path);
}

bool ProjectFiles::start_with(const StartedTrain& started) {
    if (!may_leave())
        return false;
    document_.set_new(started.train);
    if (started.target_rpm)
        document_.set_target(*started.target_rpm);
    return true;
}

// Slow work on files: the job gives the words for its end; where it made a project, that is opened.
void ProjectFiles::run(const QString& doing, const QString& failed, const QString& then_open, Job job) {
    emit message(tr("%1 Ctrl+. stops it.").arg(doing));
    auto words_at_end = std::make_shared<QString>();
    work_.start(
        [=, this](const std::stop_token& stop, const Background::Post& post) {
            io::FolderWatch watch;
            watch.stop = stop;
            watch.progress = [this, post, doing](double share) {
                post([this, doing, share] {
                    emit message(tr("%1 %2 % done. Ctrl+. stops it.").arg(doing).arg(fixed(100 * share, 0)));
                });
            };
            *words_at_end = job(watch);
        },
        [=, this](const QString& failure) {
            if (!failure.isEmpty())
                return emit message(failed.arg(failure));
            if (!then_open.isEmpty() && take(then_open))
                emit opened();
            emit message(*words_at_end);
        });
}

void ProjectFiles::stop() {
    if (!work_.running())
        return;
    work_.stop();
    emit message(tr("Stopped. A folder may hold the first part of an export; nothing else was made."));
}

void ProjectFiles::import_folder() {
    if (!may_leave())
        return;
    const QString folder = dialogs_.open_folder();
    const QString path =
        folder.isEmpty() ? QString() : dialogs_.save_project(folder + QStringLiteral(".bathmos"));
    if (path.isEmpty())
        return;
    run(tr("The folder is being imported."), tr("The folder was not imported. %1"), path,
        [folder, path](const io::FolderWatch& watch) {
            io::import_project(native(folder), native(path), watch);
            return tr("The folder was imported into %1.").arg(path);
        });
}

void ProjectFiles::rescue() {
    if (!may_leave())
        return;
    const QString damaged = dialogs_.open_damaged();
    const QString path = damaged.isEmpty()
                             ? QString()
                             : dialogs_.save_project(QFileInfo(damaged).path() + QLatin1Char('/') +
                                                     QFileInfo(damaged).completeBaseName() +
                                                     QStringLiteral("-rescued.bathmos"));
    if (path.isEmpty())
        return;
    run(tr("The project is being rescued."), tr("Nothing was rescued. %1"), path,
        [damaged, path](const io::FolderWatch& watch) {
            const io::RescueReport report = io::rescue(native(damaged), native(path), watch.stop);
            QStringList lost;
            for (const std::string& one : report.lost)
                lost << QString::fromStdString(one);
            return tr("%1 records and %2 traces were rescued into %3. %4")
                .arg(report.records)
                .arg(report.traces)
                .arg(QFileInfo(path).fileName(),
                     lost.isEmpty() ? tr("Nothing is missing.") : tr("Lost: %1.").arg(lost.join("; ")));
        });
}

QString ProjectFiles::proposed_name(const QString& ending) const {
    QString name = QString::fromStdString(document_.train().name).toLower();
    name.replace(QRegularExpression(QStringLiteral("[^a-z0-9]+")), QStringLiteral("-"));
    return (name.isEmpty() ? QStringLiteral("new") : name) + ending;
}

void ProjectFiles::done(const QString& what, const QString& path) {
    emit message(tr("%1: %2").arg(what, path));
}

bool ProjectFiles::keep() {
    if (!document_.has_train())
        return false;
    if (!document_.draft()) {
        emit message(
            tr("Every edit is in %1 already; there is nothing to save. Use Save a copy for a second file.")
                .arg(QFileInfo(document_.path()).fileName()));
        return true;
    }
    const QString path = dialogs_.save_project(proposed_name(QStringLiteral(".bathmos")));
    if (path.isEmpty())
        return false;
    try {
        document_.keep_as(path);
        done(tr("The project is kept, and every edit from now on, in"), path);
        return true;
    } catch (const InputError& error) {
        emit message(tr("The project was not kept under that name; its edits are still here. %1")
                         .arg(phrase(error.what())));
        return false;
    }
}

void ProjectFiles::save_copy() {
    if (document_.draft()) {
        keep();
        return;
    }
    const QString path = document_.has_train()
                             ? dialogs_.save_project(proposed_name(QStringLiteral("-copy.bathmos")))
                             : QString();
    if (path.isEmpty())
        return;
    try {
        document_.keep_as(path);
        done(tr("A copy was written; you go on in the first one"), path);
    } catch (const InputError& error) {
        emit message(tr("No copy was written. %1").arg(phrase(error.what())));
    }
}

void ProjectFiles::export_train() {
    if (!document_.has_train())
        return;
    if (!document_.problems().empty())
        return emit message(tr("The train was not exported, as it could not be opened again. %1")
                                .arg(phrase(document_.problems().front().sentence())));
    const QString path = dialogs_.save_train(proposed_name(QStringLiteral(".train.json")));
    if (path.isEmpty())
        return;
    try {
        document_.export_train(path);
        done(tr("The train was exported"), path);
    } catch (const InputError& error) {
        emit message(tr("The train was not exported. %1").arg(phrase(error.what())));
    }
}

void ProjectFiles::export_folder() {
    if (!document_.has_train())
        return;
    if (document_.file().isEmpty())
        return emit message(tr("Keep the project under a name first; it is in memory only."));
    const QString folder = dialogs_.choose_folder({});
    if (folder.isEmpty())
        return;
    run(tr("The project is being exported."), tr("The project was not exported. %1"), {},
        [folder, file = document_.file()](const io::FolderWatch& watch) {
            // a reader of its own beside the window's; it sees all that is committed
            io::export_project(io::Store::open(native(file)), native(folder), watch);
            return tr("The project was exported as a folder: %1").arg(folder);
        });
}

} // namespace bathmos::app
