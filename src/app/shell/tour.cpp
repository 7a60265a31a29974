#include "app/shell/tour.h"

#include <QCoreApplication>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr int kWide = 340, kGap = 12;

QString say(const char* text) {
    return QCoreApplication::translate("Tour", text);
}

} // namespace

QVector<TourStep> demo_tour() {
    return {
        {QStringLiteral("train/revisions"), QStringLiteral("train_tabs"), say("1 · What was changed"),
         say("Ashgill A22, a hill-climb engine. Over the winter it got thin-wall pushrods: lighter, so "
             "everyone liked "
             "them. Revision r2 is that change. Click another to set it against the one in hand: what "
             "differs, and "
             "what that does to mass and stiffness.")},
        {QStringLiteral("train"), QStringLiteral("threshold_strip"), say("2 · One axis for every claim"),
         say("Since then power noses over near 7700. The strip stays on every station: the model's limit "
             "with its "
             "band, the rig's, the dyno's break, the target. Drag on it: that speed is the speed of all "
             "views. In "
             "words it says whether the three agree.")},
        {QStringLiteral("motion"), QStringLiteral("station_motion"), say("3 · What the model expects"),
         say("Lift, forces and coils at the speed of the cursor, before anything is spun. Pull a number by "
             "its name "
             "sideways, Pushrod wall say: limit and curves follow while you pull; Escape leaves it as it "
             "was.")},
        {QStringLiteral("rig"), QStringLiteral("station_rig"), say("4 · What the rig saw"),
         say("Dashed is what the lobe asks, solid the prediction, dotted solid the measurement. From 7600 "
             "the valve "
             "is late off the seat, then lands hard and bounces: opening flex, paid back at the seat.")},
        {QStringLiteral("verdict"), QStringLiteral("station_verdict"), say("5 · Why, and what to change"),
         say("Fuel, spark and spring were blamed in turn. The verdict weighs dyno, rig and model together, "
             "says how "
             "sure it is, which test would settle it, and ranks changes by what they gain.")},
        {QStringLiteral("log"), QStringLiteral("station_log"), say("6 · The record"),
         say("All of it is kept, one line each; it makes the report. Now your own: Ctrl+N takes what you "
             "know of a "
             "train and assumes the rest, marked. F1 is help, Ctrl+K finds anything. Advice only: makers' "
             "instructions, local rules and a competent person come first.")}};
}

// A line round what a step speaks of; it takes no clicks.
class Tour::Ring : public QWidget {
  public:
    Ring(Theme& theme, QWidget* parent) : QWidget(parent), theme_(theme) {
        setAttribute(Qt::WA_TransparentForMouseEvents);
        hide();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(theme_.color(Role::Measured), 3, Qt::DashLine));
        painter.drawRoundedRect(rect().adjusted(2, 2, -2, -2), 6, 6);
    }

  private:
    Theme& theme_;
};

Tour::Tour(const QVector<TourStep>& steps, Theme& theme, std::function<void(const QString& link)> go,
           QWidget* window)
    : QFrame(window), steps_(steps), go_(std::move(go)), window_(window), ring_(new Ring(theme, window)),
      title_(new QLabel), text_(new QLabel), count_(new QLabel), back_(new QPushButton(tr("Back"))),
      next_(new QPushButton(tr("Next"))) {
    setObjectName(QStringLiteral("tour"));
    setFrameShape(QFrame::StyledPanel);
    setAutoFillBackground(true);
    setFixedWidth(kWide);
    auto* layout = new QVBoxLayout(this);
    title_->setObjectName(QStringLiteral("tour_title"));
    title_->setFont(Theme::text_font(14, true));
    text_->setWordWrap(true);
    layout->addWidget(title_);
    layout->addWidget(text_);
    auto* row = new QHBoxLayout;
    auto* leave = new QPushButton(tr("Leave"));
    leave->setObjectName(QStringLiteral("tour_leave"));
    back_->setObjectName(QStringLiteral("tour_back"));
    next_->setObjectName(QStringLiteral("tour_next"));
    row->addWidget(count_, 1);
    row->addWidget(leave);
    row->addWidget(back_);
    row->addWidget(next_);
    layout->addLayout(row);
    connect(leave, &QPushButton::clicked, this, [this] { end(); });
    connect(back_, &QPushButton::clicked, this, [this] { show_step(step_ - 1); });
    connect(next_, &QPushButton::clicked, this, [this] { show_step(step_ + 1); });
    window_->installEventFilter(this);
    hide();
}

void Tour::begin() {
    show_step(0);
}

void Tour::show_step(int step) {
    if (step >= steps_.size())
        return end();
    step_ = std::max(0, step);
    const TourStep& one = steps_[step_];
    if (!one.link.isEmpty())
        go_(one.link);
    title_->setText(one.title);
    text_->setText(one.text);
    text_->setAccessibleName(one.title + QStringLiteral(". ") + one.text);
    count_->setText(tr("%1 of %2").arg(step_ + 1).arg(steps_.size()));
    back_->setEnabled(step_ > 0);
    next_->setText(step_ + 1 == steps_.size() ? tr("Done") : tr("Next"));
    show();
    place();
    next_->setFocus();
}

// Beside its target where there is room, else over its lower right corner.
void Tour::place() {
    const auto* target = step_ >= 0 ? window_->findChild<QWidget*>(steps_[step_].target) : nullptr;
    setFixedHeight(layout()->heightForWidth(kWide));
    if (!target || !target->isVisible())
        return ring_->hide();
    const QRect at(target->mapTo(window_, QPoint(0, 0)), target->size());
    ring_->setGeometry(at.adjusted(-3, -3, 3, 3).intersected(window_->rect()));
    ring_->show();
    ring_->raise();
    const QRect room = window_->rect().adjusted(kGap, kGap, -kGap, -kGap);
    QPoint corner(at.right() - width() - kGap, at.bottom() - height() - kGap);
    if (at.right() + kGap + width() < room.right())
        corner = {at.right() + kGap, at.top()};
    else if (at.top() - kGap - height() > room.top())
        corner = {at.right() - width(), at.top() - kGap - height()};
    move(std::clamp(corner.x(), room.left(), room.right() - width()),
         std::clamp(corner.y(), room.top(), room.bottom() - height()));
    raise();
}

void Tour::end() {
    step_ = -1;
    ring_->hide();
    hide();
}

void Tour::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape)
        return end();
    if (event->key() == Qt::Key_Right)
        return show_step(step_ + 1);
    if (event->key() == Qt::Key_Left && step_ > 0)
        return show_step(step_ - 1);
    QFrame::keyPressEvent(event);
}

bool Tour::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize && step_ >= 0)
        QMetaObject::invokeMethod(
            this, [this] { place(); }, Qt::QueuedConnection); // once views have moved
    return QFrame::eventFilter(watched, event);
}

} // namespace bathmos::app
