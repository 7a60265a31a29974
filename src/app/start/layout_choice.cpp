#include "app/start/layout_choice.h"

#include "app/text/words.h"
#include "app/widgets/train_outline.h"
#include "core/start/start_train.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QToolButton>

namespace bathmos::app {

namespace {

constexpr QSize kPicture(84, 104);

struct Shown {
    Layout layout;
    const char *key, *name;
};
constexpr Shown kShown[] = {{Layout::Pushrod, "pushrod", QT_TRANSLATE_NOOP("LayoutChoice", "Pushrod")},
                            {Layout::Rocker, "rocker", QT_TRANSLATE_NOOP("LayoutChoice", "Rocker on cam")},
                            {Layout::Finger, "finger", QT_TRANSLATE_NOOP("LayoutChoice", "Finger")},
                            {Layout::Bucket, "bucket", QT_TRANSLATE_NOOP("LayoutChoice", "Bucket")}};

// A usual train of the layout, its valve shut.
QPixmap picture_of(Layout layout, const Theme& theme) {
    KnownTrain known;
    known.layout = layout;
    const Train train = start_train(known).train;
    const RigidMotion rigid(train, curve_of(train.lobe));
    QPixmap out(2 * kPicture);
    out.setDevicePixelRatio(2);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::Antialiasing);
    const OutlineFrame frame = outline_frame(train, rigid, kPicture, 4, 2);
    for (const DrawnPart& part : resting(train, rigid))
        paint_outline(painter, theme, part, outline_path(part, frame), false, false);
    return out;
}

} // namespace

LayoutChoice::LayoutChoice(const Theme& theme, QWidget* parent)
    : QWidget(parent), group_(new QButtonGroup(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    for (const Shown& shown : kShown) {
        auto* button = new QToolButton;
        button->setObjectName(QStringLiteral("layout_") + QLatin1String(shown.key));
        button->setText(tr(shown.name));
        button->setAccessibleName(tr("Layout: %1").arg(tr(shown.name)));
        button->setCheckable(true);
        button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
        button->setIconSize(kPicture);
        button->setIcon(picture_of(shown.layout, theme));
        button->setFocusPolicy(Qt::StrongFocus);
        group_->addButton(button, static_cast<int>(shown.layout));
        row->addWidget(button, 1);
    }
    group_->button(static_cast<int>(Layout::Pushrod))->setChecked(true);
    connect(group_, &QButtonGroup::idToggled, this, [this](int, bool on) {
        if (on)
            emit changed();
    });
}

Layout LayoutChoice::chosen() const {
    return static_cast<Layout>(group_->checkedId());
}

void LayoutChoice::choose(Layout layout) {
    group_->button(static_cast<int>(layout))->setChecked(true);
}

} // namespace bathmos::app
