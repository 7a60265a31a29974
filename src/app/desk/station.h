// A station of the work: one widget in the middle of the window. The shell only switches; no station knows
// another.
#pragma once

#include "app/desk/context.h"

#include <QStringList>
#include <QWidget>

namespace bathmos::app {

class Station : public QWidget {
    Q_OBJECT
  public:
    Station(Context context, const QString& name, QWidget* parent = nullptr)
        : QWidget(parent), context_(context) {
        setObjectName(QStringLiteral("station_") + name);
    }
    virtual QString title() const = 0;
    /// Help for the station: what it is for, what to do, keys.
    virtual QString help() const = 0;
    /// Navigates to a location of the station that a link names after the station's own name:
    /// "metric/loft_mm" of "rig/metric/loft_mm". An unknown location changes nothing.
    virtual void navigate(const QString& location) { Q_UNUSED(location) }
    /// What is chosen, as the lexicon has it: "metric/loft_mm", "cause/surge", "rule/coil_bind"; "" for
    /// nothing.
    virtual QString subject() const { return {}; }
    /// Files that somebody dropped and that belong here.
    virtual void take_files(const QStringList& paths) { Q_UNUSED(paths) }
    /// Stops slow work that the station runs itself.
    virtual void stop() {}

  signals:
    /// Something the user should read: what, why, what to do.
    void message(const QString& text);
    /// Asks the shell for an action by its id, e.g. "open_train".
    void wants(const QString& action);

  protected:
    Context context_;
};

} // namespace bathmos::app
