// What a person adds to the log: a note, a use of the engine, a failure.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "session/log/time_line.h"

#include <QWidget>

class QComboBox;
class QFormLayout;
class QLineEdit;
class QPushButton;

namespace bathmos::app {

class NoteForm : public QWidget {
    Q_OBJECT
  public:
    NoteForm(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    /// Parts of the shelf, as they stand now.
    void show_parts();
    /// The first field waits for words.
    void begin();
    /// Files that go with the next line.
    void attach(const QStringList& paths);
    /// Of a logger's file that is being read.
    void stop();

  signals:
    void message(const QString& text);

  private:
    void show_kind();
    void read_logger();
    void take(const life::LoggedUse& read, const QString& name);
    void show_reading();
    void add();
    session::LineKind kind() const;
    session::LogNote note() const;
    void clear();

    Context context_;
    const Dialogs& dialogs_;
    QFormLayout* rows_;
    QComboBox *kind_, *part_, *mode_;
    QLineEdit *title_, *text_, *place_, *use_, *runs_, *when_;
    QPushButton *logger_, *files_, *add_;
    QStringList attached_; ///< paths of files that go with it
    life::EngineUse logged_;
    Background work_;
};

} // namespace bathmos::app
