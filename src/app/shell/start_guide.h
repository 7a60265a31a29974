// The page "from what you have" over the window: what was typed is kept until it made a train.
#pragma once

#include "app/shell/project_files.h"
#include "app/start/start_dialog.h"

#include <QPointer>

namespace bathmos::app {

class StartGuide : public QObject {
    Q_OBJECT
  public:
    /// `remember`: what was typed outlives the program.
    StartGuide(Theme& theme, DisplayUnits& units, const Dialogs& dialogs, ProjectFiles& files, bool remember,
               QWidget* window);
    void open();
    /// With what a file knows. Throws InputError.
    void open_file(const QString& path);
    StartDialog* dialog() const { return dialog_; }

  signals:
    void made(); ///< a project with the train is open

  private:
    void keep(const KnownTrain& known);

    Theme& theme_;
    DisplayUnits& units_;
    const Dialogs& dialogs_;
    ProjectFiles& files_;
    bool remember_;
    QWidget* window_;
    KnownTrain known_;
    QPointer<StartDialog> dialog_;
};

} // namespace bathmos::app
