#include "app/desk/action_registry.h"

namespace bathmos::app {

QAction* ActionRegistry::add(const QString& id, const QString& text, const QKeySequence& shortcut,
                             std::function<void()> run) {
    Q_ASSERT(!actions_.contains(id));
    auto* action = new QAction(text, this);
    action->setObjectName(id);
    action->setShortcut(shortcut);
    action->setShortcutContext(Qt::WindowShortcut);
    if (!shortcut.isEmpty())
        action->setToolTip(QStringLiteral("%1 (%2)").arg(text, shortcut.toString(QKeySequence::NativeText)));
    connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
    actions_.insert(id, action);
    return action;
}

void ActionRegistry::run(const QString& id) const {
    if (QAction* action = find(id); action && action->isEnabled())
        action->trigger();
}

} // namespace bathmos::app
