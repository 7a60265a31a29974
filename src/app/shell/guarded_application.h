// The event loop with a barrier: what is thrown out of a handler ends in a message, not in the end of the
// program.
#pragma once

#include <QApplication>

namespace bathmos::app {

class GuardedApplication : public QApplication {
    Q_OBJECT
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;

  signals:
    /// Something was thrown that nobody caught; what was being done was not done.
    void fault(const QString& why);
};

} // namespace bathmos::app
