// Every action of the window by its id: text, shortcut and what it does, in one place.
#pragma once

#include <QAction>
#include <QKeySequence>
#include <QMap>
#include <QObject>
#include <functional>

namespace bathmos::app {

class ActionRegistry : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// The new action; its tool tip names the shortcut. Ids are used once.
    QAction* add(const QString& id, const QString& text, const QKeySequence& shortcut,
                 std::function<void()> run);
    /// Null for an unknown id.
    QAction* find(const QString& id) const { return actions_.value(id); }
    void run(const QString& id) const;
    QList<QAction*> all() const { return actions_.values(); }

  private:
    QMap<QString, QAction*> actions_;
};

} // namespace bathmos::app
