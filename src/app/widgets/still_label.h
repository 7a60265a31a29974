// Words that change many times a second: within a fixed place, so that no change lays the page out anew.
#pragma once

#include <QLabel>

namespace bathmos::app {

class StillLabel : public QWidget {
  public:
    /// Room for so many lines of that font; what is longer is cut, and stands in the tool tip.
    StillLabel(const QString& name, const QFont& font, int lines, QWidget* parent = nullptr)
        : QWidget(parent), label_(new QLabel(this)) {
        label_->setObjectName(name);
        label_->setFont(font);
        label_->setWordWrap(lines > 1);
        label_->setAlignment(Qt::AlignLeft | Qt::AlignTop);
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        setFixedHeight(lines * QFontMetrics(font).lineSpacing() + 2);
    }
    void set_text(const QString& text) {
        if (text == label_->text())
            return;
        label_->setText(text);
        tell_whole();
    }

  protected:
    void resizeEvent(QResizeEvent* event) override {
        QWidget::resizeEvent(event);
        label_->setGeometry(rect());
        tell_whole();
    }

  private:
    void tell_whole() {
        const bool cut = label_->wordWrap() ? label_->heightForWidth(width()) > height()
                                            : label_->sizeHint().width() > width();
        setToolTip(cut ? label_->text() : QString());
    }
    QLabel* label_;
};

} // namespace bathmos::app
