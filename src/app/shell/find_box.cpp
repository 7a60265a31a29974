#include "app/shell/find_box.h"

#include "app/theme/theme.h"

#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

namespace bathmos::app {

FindBox::FindBox(const QVector<Findable>& among, QWidget* parent)
    : QDialog(parent), among_(among), query_(new QLineEdit), list_(new QListWidget) {
    setObjectName(QStringLiteral("find_box"));
    setWindowTitle(tr("Find"));
    setAttribute(Qt::WA_DeleteOnClose);
    resize(620, 420);
    auto* layout = new QVBoxLayout(this);
    query_->setObjectName(QStringLiteral("find_query"));
    query_->setAccessibleName(tr("What to find: an action, a word, a piece of help"));
    query_->setPlaceholderText(tr("an action, a word, a piece of help"));
    query_->setClearButtonEnabled(true);
    query_->installEventFilter(this);
    list_->setObjectName(QStringLiteral("find_list"));
    list_->setAccessibleName(tr("What was found"));
    list_->setFocusPolicy(Qt::NoFocus); // the arrows work from the box
    list_->setTextElideMode(Qt::ElideRight);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    layout->addWidget(query_);
    layout->addWidget(list_, 1);
    layout->addWidget(new QLabel(tr("Up and Down choose, Enter goes there, Escape leaves.")));
    connect(query_, &QLineEdit::textChanged, this, [this] { look(); });
    connect(list_, &QListWidget::itemActivated, this, [this] { go(); });
    connect(list_, &QListWidget::itemClicked, this, [this] { go(); });
    look();
    query_->setFocus();
}

void FindBox::look() {
    found_ = find_all(among_, query_->text());
    list_->clear();
    for (const Findable& one : found_) {
        const QString kind = one.kind == Findable::Kind::Action ? QString()
                             : one.kind == Findable::Kind::Word ? tr("word: ")
                                                                : tr("help, ");
        auto* item = new QListWidgetItem(
            kind + one.title + (one.detail.isEmpty() ? QString() : QStringLiteral("   ") + one.detail));
        item->setToolTip(one.detail);
        list_->addItem(item);
    }
    if (found_.isEmpty())
        list_->addItem(tr("Nothing holds all of these words."));
    list_->setCurrentRow(0);
}

void FindBox::go() {
    const int row = list_->currentRow();
    if (row < 0 || row >= found_.size())
        return;
    const auto chosen = found_[row].go;
    close();
    if (chosen)
        chosen();
}

bool FindBox::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int step = key == Qt::Key_Down       ? 1
                         : key == Qt::Key_Up       ? -1
                         : key == Qt::Key_PageDown ? 10
                         : key == Qt::Key_PageUp   ? -10
                                                   : 0;
        if (step != 0) {
            list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, list_->count() - 1));
            return true;
        }
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            go();
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

} // namespace bathmos::app
