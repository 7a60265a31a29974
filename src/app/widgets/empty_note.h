// What an empty station shows: what it is for, and the next step.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>

namespace bathmos::app {

class EmptyNote : public QWidget {
    Q_OBJECT
  public:
    EmptyNote(const QString& text, QWidget* parent = nullptr)
        : QWidget(parent), layout_(new QVBoxLayout(this)) {
        auto* label = new QLabel(text, this);
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignCenter);
        label->setTextFormat(Qt::RichText);
        layout_->addStretch();
        layout_->addWidget(label);
        layout_->addStretch();
    }
    QPushButton* add_step(const QString& text, const QString& object_name) {
        auto* button = new QPushButton(text, this);
        button->setObjectName(object_name);
        button->setAccessibleName(text);
        layout_->insertWidget(layout_->count() - 1, button, 0, Qt::AlignHCenter);
        return button;
    }

  private:
    QVBoxLayout* layout_;
};

} // namespace bathmos::app
