// Findings of the train in hand, and what must be checked again since it was changed.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"

#include <QWidget>

class QLabel;
class QListWidget;

namespace bathmos::app {

/// A square, a triangle and a ring: severity is told by shape first.
QString sign_of(Severity severity);

class ChecksPanel : public QWidget {
    Q_OBJECT
  public:
    ChecksPanel(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    void focus_on_checks();
    /// Key of the rule behind the chosen finding, "" for none.
    QString chosen_rule() const;

  signals:
    void message(const QString& text);

  private:
    void refresh();
    void show_findings();
    void show_checks();
    void waive_finding();
    void close_checks(EntryKind kind);

    Context context_;
    const Dialogs& dialogs_;
    QListWidget *findings_, *checks_;
    QLabel* checks_title_;
};

} // namespace bathmos::app
