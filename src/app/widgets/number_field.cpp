#include "app/widgets/number_field.h"

#include "app/text/words.h"
#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QShortcut>
#include <QToolButton>
#include <cmath>

namespace bathmos::app {

NumberField::NumberField(DisplayUnits& units, Quantity quantity, const QString& key, const QString& label,
                         const QString& help, Complaint complaint, QWidget* parent)
    : QWidget(parent), units_(units), quantity_(quantity), help_(help), complaint_(std::move(complaint)),
      edit_(new QLineEdit(this)), unit_(new QLabel(this)), name_(new DragName(label, this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    name_->setToolTip(help);
    name_->setBuddy(edit_);
    row->addWidget(name_, 1);
    edit_->setObjectName(key);
    edit_->setFont(Theme::number_font());
    edit_->setAlignment(Qt::AlignRight);
    edit_->setFixedWidth(96);
    row->addWidget(edit_);
    unit_->setFixedWidth(66);
    row->addWidget(unit_);
    relabel();
    connect(edit_, &QLineEdit::textEdited, this, &NumberField::typed);
    connect(edit_, &QLineEdit::editingFinished, this, [this] {
        if (problem_.isEmpty())
            show_value(si_);
    });
    connect(&units_, &DisplayUnits::changed, this, [this] {
        relabel();
        show_value(si_);
    });
}

void NumberField::relabel() {
    unit_->setText(units_.unit_name(quantity_));
    edit_->setAccessibleName(QStringLiteral("%1 %2").arg(name_->text(), unit_->text()));
}

void NumberField::show_value(double si) {
    si_ = si;
    const std::optional<double> typed_now = parse_number(edit_->text());
    const double value = units_.value(quantity_, si);
    if (edit_->hasFocus() && typed_now && std::abs(*typed_now - value) <= 1e-9 * std::abs(value))
        return; // what stands there means this value; leave the user's own digits
    // File values are metric and shown as they are; their inch equivalents would else trail meaningless
    // digits.
    edit_->setText(digits(value, compact_ || units_.system_of(quantity_) == UnitSystem::Inch ? 5 : 6));
    show_problem({});
}

void NumberField::show_problem(const QString& problem) {
    problem_ = problem;
    edit_->setToolTip(problem.isEmpty() ? help_ : problem);
    edit_->setAccessibleDescription(problem);
    edit_->setProperty("problem", !problem.isEmpty());
    edit_->setStyleSheet(problem.isEmpty()
                             ? QString()
                             : QStringLiteral("QLineEdit { border: 2px dashed palette(bright-text); }"));
}

void NumberField::typed(const QString& text) {
    const std::optional<double> value = parse_number(text);
    if (!value)
        return show_problem(tr("\"%1\" is not a number").arg(text));
    const double si = *value * units_.unit(quantity_).to_si;
    const std::string complaint = complaint_(si / unit_of(quantity_).to_si);
    if (!complaint.empty())
        return show_problem(phrase(complaint) + QLatin1Char(' ') +
                            QString::fromUtf8(unit_of(quantity_).name.data()));
    show_problem({});
    si_ = si;
    emit edited(si);
}

void NumberField::show_source(const QString& sign, const QString& told) {
    if (!sign_) {
        sign_ = new QToolButton;
        sign_->setAutoRaise(true);
        sign_->setFixedSize(20, 20);
        sign_->setFocusPolicy(Qt::NoFocus); // one stop a number; Alt+Down does the same
        static_cast<QHBoxLayout*>(layout())->insertWidget(1, sign_);
        connect(sign_, &QToolButton::clicked, this, &NumberField::source_asked);
        auto* ask = new QShortcut(QKeySequence(Qt::ALT | Qt::Key_Down), edit_);
        ask->setContext(Qt::WidgetShortcut);
        connect(ask, &QShortcut::activated, this, &NumberField::source_asked);
    }
    sign_->setText(sign);
    sign_->setVisible(!sign.isEmpty());
    sign_->setToolTip(told);
    sign_->setAccessibleName(tr("%1, how it is known: %2").arg(name_->text(), told));
    if (problem_.isEmpty())
        edit_->setAccessibleDescription(told);
}

QString NumberField::source_sign() const {
    return sign_ ? sign_->text() : QString();
}

// ---- dragging

namespace {
constexpr int kPixelsPerStep = 4;
constexpr double kShareStep = 0.005;
} // namespace

void NumberField::set_pullable(double step_si) {
    step_si_ = step_si;
    name_->set_pullable(true);
    name_->setToolTip(tr("%1\nPull sideways to try other values; Escape leaves it as it was.").arg(help_));
    edit_->installEventFilter(this);
    connect(name_, &DragName::pull_began, this, [this] { pulled_from_ = si_; });
    connect(name_, &DragName::dragged, this,
            [this](int pixels) { pull_to(pulled_from_ + step() * (pixels / kPixelsPerStep)); });
    connect(name_, &DragName::let_go, this, [this] {
        if (si_ != pulled_from_)
            emit let_go(si_);
    });
    connect(name_, &DragName::pull_left, this, [this] {
        show_value(pulled_from_);
        emit pull_left();
    });
}

void NumberField::set_compact() {
    compact_ = true;
    edit_->setFixedWidth(68);
    unit_->setFixedWidth(44);
}

double NumberField::step() const {
    const double from = std::abs(pulled_from_);
    return step_si_ > 0 ? step_si_ : from > 0 ? kShareStep * from : 0.01 * units_.unit(quantity_).to_si;
}

bool NumberField::acceptable(double si) const {
    return complaint_(si / unit_of(quantity_).to_si).empty();
}

void NumberField::pull_to(double si) {
    if (si == si_ || !acceptable(si))
        return;
    show_value(si);
    emit dragged(si);
}

bool NumberField::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int steps = key == Qt::Key_Up         ? 1
                          : key == Qt::Key_Down     ? -1
                          : key == Qt::Key_PageUp   ? 10
                          : key == Qt::Key_PageDown ? -10
                                                    : 0;
        pulled_from_ = si_;
        const double next = si_ + steps * step();
        if (steps != 0 && acceptable(next)) {
            show_value(next);
            emit edited(next);
        }
        if (steps != 0)
            return true;
    }
    return QWidget::eventFilter(watched, event);
}

void DragName::set_pullable(bool on) {
    pullable_ = on;
    setCursor(on ? Qt::SizeHorCursor : Qt::ArrowCursor);
}

void DragName::mousePressEvent(QMouseEvent* event) {
    if (held_ && event->button() != Qt::LeftButton) {
        held_ = false;
        emit pull_left();
        return;
    }
    held_ = pullable_ && event->button() == Qt::LeftButton;
    from_ = event->globalPosition().toPoint().x();
    if (held_) {
        setFocus();
        emit pull_began();
    }
}

void DragName::mouseMoveEvent(QMouseEvent* event) {
    if (held_)
        emit dragged(event->globalPosition().toPoint().x() - from_);
}

void DragName::mouseReleaseEvent(QMouseEvent* event) {
    if (held_ && event->button() == Qt::LeftButton) {
        held_ = false;
        emit let_go();
    }
}

void DragName::keyPressEvent(QKeyEvent* event) {
    if (!held_ || event->key() != Qt::Key_Escape)
        return QLabel::keyPressEvent(event);
    held_ = false;
    emit pull_left();
}

} // namespace bathmos::app
