// Projects and trains as files: opening, keeping, exporting, importing, rescuing, with the questions and
// words that go with it.
#pragma once

#include "app/desk/background.h"
#include "app/desk/dialogs.h"
#include "app/desk/document.h"
#include "core/start/start_train.h"
#include "io/project/project_folder.h"

namespace bathmos::app {

class ProjectFiles : public QObject {
    Q_OBJECT
  public:
    ProjectFiles(Document& document, const Dialogs& dialogs, QObject* parent = nullptr);

    /// Each asks first where a draft with edits would be lost. True when another project is open.
    bool open(const QString& path);
    bool open_leaving(const QString& path); ///< that somebody dropped
    bool open_asking();
    /// A new project around a train, with its target.
    bool start_with(const StartedTrain& started);
    /// A draft gets a name; a project that has one is told to be safe already. False: not kept.
    bool keep();
    void save_copy();
    void export_train();
    /// Run in the background; `stop` ends them. What was made is opened then.
    void export_folder();
    void import_folder();
    void rescue();
    void stop();

  signals:
    void message(const QString& text);
    void opened(); ///< another project, by work in the background

  private:
    bool may_leave();
    bool take(const QString& path);
    QString proposed_name(const QString& ending) const;
    void done(const QString& what, const QString& path);
    using Job = std::function<QString(const io::FolderWatch& watch)>;
    void run(const QString& doing, const QString& failed, const QString& then_open, Job job);

    Document& document_;
    const Dialogs& dialogs_;
    Background work_;
};

} // namespace bathmos::app
