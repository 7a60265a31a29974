// Files dropped anywhere onto a window.
#pragma once

#include <QObject>
#include <QStringList>
#include <functional>

class QMimeData;
class QWidget;

namespace bathmos::app {

class FileDrop : public QObject {
    Q_OBJECT
  public:
    using Take = std::function<void(const QStringList& paths)>;
    /// `take` is called once the drop is over.
    FileDrop(QWidget* window, Take take);
    /// The files of what is being dragged; empty where there are none.
    static QStringList files_of(const QMimeData* data);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* window_;
    Take take_;
};

} // namespace bathmos::app
