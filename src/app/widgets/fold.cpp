#include "app/widgets/fold.h"

#include "app/theme/theme.h"

#include <QPushButton>
#include <QVBoxLayout>

namespace bathmos::app {

Fold::Fold(const QString& title, const QString& name, QWidget* parent)
    : QWidget(parent), title_(title), heading_(new QPushButton), body_(new QWidget),
      column_(new QVBoxLayout(body_)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    heading_->setObjectName(QStringLiteral("fold_") + name);
    heading_->setFont(Theme::text_font(13, true));
    heading_->setFlat(true);
    heading_->setAutoDefault(false);
    heading_->setCheckable(true);
    heading_->setChecked(true);
    heading_->setStyleSheet(QStringLiteral("QPushButton { text-align: left; padding: 2px 0; border: none; }"
                                           "QPushButton:focus { border: 1px solid palette(highlight); }"));
    heading_->setFocusPolicy(Qt::TabFocus);
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(4);
    layout->addWidget(heading_);
    layout->addWidget(body_);
    connect(heading_, &QPushButton::toggled, this, [this](bool open) {
        body_->setVisible(open);
        relabel();
        emit folded_changed(!open);
    });
    relabel();
}

bool Fold::folded() const {
    return !heading_->isChecked();
}

void Fold::set_folded(bool folded) {
    heading_->setChecked(!folded);
}

void Fold::show_assumed(int count) {
    assumed_ = count;
    relabel();
}

void Fold::relabel() {
    const QString count = assumed_ > 0 ? tr("   ? %1 assumed").arg(assumed_) : QString();
    heading_->setText((folded() ? QStringLiteral("▸ ") : QStringLiteral("▾ ")) + title_ + count);
    heading_->setAccessibleName(title_ + count);
    heading_->setAccessibleDescription(folded() ? tr("folded") : tr("open"));
}

} // namespace bathmos::app
