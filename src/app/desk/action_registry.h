// Every action of the window by its id: text, keys (the usual ones or the user's own) and what it does, in
// one place.
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

    /// The keys that an action comes with.
    QKeySequence usual_keys(const QString& id) const { return usual_.value(id); }
    /// Own keys by id, instead of the usual ones; an empty sequence takes the keys away. Those that are not
    /// named have their usual ones. An id that is not known is passed over.
    void set_own_keys(const QMap<QString, QKeySequence>& own);

  private:
    static void give(QAction* action, const QKeySequence& keys);
    QMap<QString, QAction*> actions_;
    QMap<QString, QKeySequence> usual_;
};

} // namespace bathmos::app
