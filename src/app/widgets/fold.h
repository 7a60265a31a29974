// A group of a form under its heading, which folds it away.
#pragma once

#include <QWidget>

class QPushButton;
class QVBoxLayout;

namespace bathmos::app {

class Fold : public QWidget {
    Q_OBJECT
  public:
    Fold(const QString& title, const QString& name, QWidget* parent = nullptr);

    QVBoxLayout* column() const { return column_; }
    bool folded() const;
    void set_folded(bool folded);
    /// Beside the title: how many of its numbers are assumed.
    void show_assumed(int count);

  signals:
    void folded_changed(bool folded);

  private:
    void relabel();

    QString title_;
    int assumed_ = 0;
    QPushButton* heading_;
    QWidget* body_;
    QVBoxLayout* column_;
};

} // namespace bathmos::app
