#include "app/desk/action_registry.h"

namespace bathmos::app {

QAction* ActionRegistry::add(const QString& id, const QString& text, const QKeySequence& shortcut,
                             std::function<void()> run) {
    Q_ASSERT(!actions_.contains(id));
    auto* action = new QAction(text, this);
    action->setObjectName(id);
    action->setShortcutContext(Qt::WindowShortcut);
    give(action, shortcut);
    usual_.insert(id, shortcut);
    connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
    actions_.insert(id, action);
    return action;
}

void ActionRegistry::set_own_keys(const QMap<QString, QKeySequence>& own) {
    for (QAction* action : std::as_const(actions_))
        give(action, own.value(action->objectName(), usual_.value(action->objectName())));
}

void ActionRegistry::give(QAction* action, const QKeySequence& keys) {
    action->setShortcut(keys);
    action->setToolTip(keys.isEmpty() ? QString()
                                      : QStringLiteral("%1 (%2)").arg(
                                            action->text(), keys.toString(QKeySequence::NativeText)));
}

void ActionRegistry::run(const QString& id) const {
    if (QAction* action = find(id); action && action->isEnabled())
        action->trigger();
}

} // namespace bathmos::app
