#include "app/start/start_dialog.h"

#include "app/start/known_number.h"
#include "app/start/layout_choice.h"
#include "app/start/lobe_form.h"
#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/train_outline.h"
#include "core/start/assumption_rules.h"
#include "core/train/assumed.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kFormWidth = 470, kWorthShown = 3;
constexpr QSize kSketch(210, 200);

// Three digits, as an assumed number deserves.
QString rough(double value) {
    return std::abs(value) >= 1000 ? fixed(value, 0) : digits(value, 3);
}

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setFont(Theme::text_font(13, true));
    label->setContentsMargins(0, 8, 0, 0);
    return label;
}

} // namespace

StartDialog::StartDialog(Theme& theme, DisplayUnits& units, const Dialogs& dialogs, QWidget* parent)
    : QDialog(parent), theme_(theme), units_(units), dialogs_(dialogs) {
    setObjectName(QStringLiteral("start_dialog"));
    setWindowTitle(tr("New train from what you have"));
    resize(1060, 720);
    auto* layout = new QVBoxLayout(this);
    auto* across = new QHBoxLayout;
    across->setSpacing(16);
    across->addWidget(make_form());
    across->addWidget(make_result(), 1);
    layout->addLayout(across, 1);
    auto* buttons = new QDialogButtonBox;
    make_ = buttons->addButton(tr("Make this train"), QDialogButtonBox::AcceptRole);
    make_->setObjectName(QStringLiteral("start_make"));
    make_->setToolTip(tr("Ctrl+Return"));
    make_->setAutoDefault(false);
    make_->setDefault(false);
    auto* leave = buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    leave->setAutoDefault(false);
    layout->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, [this] { accept_train(); });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(&estimate_, &StartEstimate::changed, this, [this] { show_estimate(); });
    connect(&units_, &DisplayUnits::changed, this, [this] { show_assumed(); });
    connect(&theme_, &Theme::changed, this, [this] { paint_sketch(); });
    rebuild_numbers();
    judge();
    name_->setFocus();
}

QWidget* StartDialog::make_head() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* words =
        new QLabel(tr("Type what you know and leave the rest empty: it is assumed by a rule, wide, and stays "
                      "marked with ? until you measure it."));
    words->setWordWrap(true);
    layout->addWidget(words);
    name_ = new QLineEdit(tr("New train"));
    name_->setObjectName(QStringLiteral("known_name"));
    name_->setAccessibleName(tr("Name of the train"));
    name_->selectAll();
    connect(name_, &QLineEdit::returnPressed, this, [this] { focusNextChild(); });
    layout->addWidget(name_);
    layout_ = new LayoutChoice(theme_);
    layout->addWidget(layout_);
    const auto combo = [this](const QString& name, const QString& spoken, const QStringList& items) {
        auto* made = new QComboBox;
        made->setObjectName(name);
        made->setAccessibleName(spoken);
        made->addItems(items);
        connect(made, &QComboBox::activated, this, [this] { read_page(); });
        return made;
    };
    auto* first = new QHBoxLayout;
    exhaust_ = new QCheckBox(tr("exhaust valve"));
    exhaust_->setObjectName(QStringLiteral("known_exhaust"));
    metal_ = combo(QStringLiteral("known_metal"), tr("The valve is of"),
                   {tr("steel valve"), tr("titanium valve")});
    nested_ = combo(QStringLiteral("known_nested"), tr("Springs of one valve"),
                    {tr("one spring"), tr("two, nested"), tr("three, nested")});
    follower_ = combo(QStringLiteral("known_follower"), tr("Follower on the cam"),
                      {tr("usual follower"), tr("roller"), tr("flat")});
    hydraulic_ = new QCheckBox(tr("hydraulic"));
    hydraulic_->setObjectName(QStringLiteral("known_hydraulic"));
    for (QWidget* one : std::initializer_list<QWidget*>{metal_, nested_, follower_})
        first->addWidget(one);
    first->addStretch();
    layout->addLayout(first);
    auto* second = new QHBoxLayout;
    second->addWidget(exhaust_);
    second->addWidget(hydraulic_);
    second->addStretch();
    layout->addLayout(second);
    for (QCheckBox* one : {exhaust_, hydraulic_})
        connect(one, &QCheckBox::toggled, this, [this] { read_page(); });
    connect(name_, &QLineEdit::textEdited, this, [this] { read_page(); });
    connect(layout_, &LayoutChoice::changed, this, [this] { read_page(); });
    return box;
}

QWidget* StartDialog::make_form() {
    auto* scroll = new QScrollArea;
    scroll->setObjectName(QStringLiteral("start_form"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFixedWidth(kFormWidth);
    scroll->setFocusPolicy(Qt::NoFocus);
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 12, 0);
    column->setSpacing(4);
    column->addWidget(make_head());
    lobe_ = new LobeForm(units_, dialogs_);
    connect(lobe_, &LobeForm::changed, this, [this] { read_page(); });
    const std::pair<const char*, QString> groups[] = {{"valve", tr("Valve")},
                                                      {"spring", tr("Springs, as tested")},
                                                      {"lobe", tr("Lobe")},
                                                      {"drive", tr("Between lobe and valve")},
                                                      {"engine", tr("Engine")}};
    for (const auto& [key, title] : groups) {
        column->addWidget(heading(title));
        if (key == std::string("lobe"))
            column->addWidget(lobe_);
        auto* group = new QVBoxLayout;
        group->setSpacing(4);
        column->addLayout(group);
        groups_[key] = group;
    }
    column->addStretch();
    scroll->setWidget(page);
    return scroll;
}

// The numbers that this layout has; what was typed stays.
void StartDialog::rebuild_numbers() {
    const QString focus = focusWidget() ? focusWidget()->objectName() : QString();
    for (KnownNumber* number : numbers_)
        delete number;
    numbers_.clear();
    QWidget* before = layout_;
    for (const StartField& field : start_fields(known_.layout, known_.hydraulic)) {
        auto* number = new KnownNumber(units_, field);
        number->show_known(known_.number(field.key));
        groups_.at(std::string(field.group))->addWidget(number);
        connect(number, &KnownNumber::changed, this, [this] { read_page(); });
        numbers_.push_back(number);
        if (number->edit()->objectName() == focus)
            before = number->edit();
    }
    order_tab_stops();
    if (before != layout_)
        before->setFocus();
}

// Tab goes down the page, also through numbers that came later.
void StartDialog::order_tab_stops() {
    std::vector<QWidget*> stops = {name_};
    const auto add_within = [&](QWidget* box) {
        for (QWidget* one : box->findChildren<QWidget*>())
            if (one->focusPolicy() & Qt::TabFocus)
                stops.push_back(one);
    };
    add_within(layout_);
    stops.insert(stops.end(), {metal_, nested_, follower_, exhaust_, hydraulic_});
    for (const char* group : {"valve", "spring", "lobe", "drive", "engine"}) {
        if (group == std::string_view("lobe"))
            add_within(lobe_);
        for (KnownNumber* number : numbers_)
            if (number->field().group == group)
                stops.push_back(number->edit());
    }
    if (make_)
        stops.insert(stops.end(), {table_, make_});
    for (std::size_t i = 1; i < stops.size(); ++i)
        QWidget::setTabOrder(stops[i - 1], stops[i]);
}

void StartDialog::show_known(const KnownTrain& known) {
    filling_ = true;
    known_ = known;
    name_->setText(words(known.name));
    layout_->choose(known.layout);
    exhaust_->setChecked(known.exhaust);
    hydraulic_->setChecked(known.hydraulic);
    hydraulic_->setEnabled(known.layout != Layout::Rocker);
    metal_->setCurrentIndex(static_cast<int>(known.metal));
    nested_->setCurrentIndex(known.nested - 1);
    follower_->setCurrentIndex(known.follower ? 1 + static_cast<int>(*known.follower) : 0);
    lobe_->show_lobe(known.lobe);
    filling_ = false;
    rebuild_numbers();
    judge();
}

void StartDialog::read_page() {
    if (filling_)
        return;
    const Layout layout = known_.layout;
    const bool hydraulic = known_.hydraulic;
    known_.name = name_->text().trimmed().toStdString();
    known_.layout = layout_->chosen();
    known_.exhaust = exhaust_->isChecked();
    known_.hydraulic = hydraulic_->isChecked() && known_.layout != Layout::Rocker;
    hydraulic_->setEnabled(known_.layout != Layout::Rocker);
    known_.metal = static_cast<ValveMetal>(metal_->currentIndex());
    known_.nested = 1 + nested_->currentIndex();
    known_.follower = follower_->currentIndex() == 0
                          ? std::nullopt
                          : std::optional(static_cast<FollowerKind>(follower_->currentIndex() - 1));
    known_.lobe = lobe_->lobe();
    for (const KnownNumber* number : numbers_)
        if (const auto si = number->known())
            known_.numbers[std::string(number->field().key)] = *si;
        else
            known_.numbers.erase(std::string(number->field().key));
    if (known_.layout != layout || known_.hydraulic != hydraulic) {
        std::erase_if(known_.numbers, [&](const auto& one) {
            const auto fields = start_fields(known_.layout, known_.hydraulic);
            return std::none_of(fields.begin(), fields.end(),
                                [&](const StartField& field) { return field.key == one.first; });
        });
        rebuild_numbers();
    }
    judge();
    emit known_changed();
}

void StartDialog::judge() {
    started_.reset();
    QString problem = lobe_->problem();
    std::string key;
    for (const KnownNumber* number : numbers_)
        if (!number->problem().isEmpty() && problem.isEmpty())
            problem = phrase(number->field().label) + QStringLiteral(": ") + number->problem();
    if (problem.isEmpty())
        try {
            started_ = start_train(known_);
        } catch (const InputError& error) {
            key = error.problem().location;
            problem = phrase(error.problem().what + "; " + error.problem().mend);
        }
    show_problem(problem, key);
    make_->setEnabled(started_.has_value());
    if (started_)
        estimate_.ask(*started_);
    else
        estimate_.forget();
    show_assumed();
}

void StartDialog::show_problem(const QString& problem, const std::string& key) {
    QString text = problem;
    for (KnownNumber* number : numbers_) {
        const bool here = !key.empty() && number->field().key == key;
        if (here)
            text = phrase(number->field().label) + QStringLiteral(": ") + problem;
        number->show_problem(here ? problem : QString());
    }
    QStringList lines;
    if (!text.isEmpty())
        lines << tr("■ This makes no train yet. %1").arg(text);
    else
        for (const std::string& doubt : started_->doubts)
            lines << QStringLiteral("▲ ") + phrase(doubt);
    words_->setText(lines.join(QLatin1Char('\n')));
    words_->setAccessibleName(words_->text());
    words_->setVisible(!lines.isEmpty());
}

void StartDialog::show_assumed() {
    rigid_.reset();
    std::optional<TrainFigures> figures;
    if (started_) {
        rigid_.emplace(started_->train, curve_of(started_->train.lobe));
        figures = figures_of(started_->train, *rigid_);
    }
    for (KnownNumber* number : numbers_)
        number->show_assumed(started_ ? stands_for(*started_, *figures, number->field().key) : std::nullopt);
    fill_table();
    paint_sketch();
    show_estimate();
}

QWidget* StartDialog::make_result() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* top = new QHBoxLayout;
    sketch_ = new QLabel;
    sketch_->setObjectName(QStringLiteral("start_sketch"));
    sketch_->setFixedSize(kSketch);
    sketch_->setAccessibleName(tr("Drawing of the train; dotted parts have assumed numbers"));
    top->addWidget(sketch_);
    auto* words = new QVBoxLayout;
    limit_ = new QLabel;
    limit_->setObjectName(QStringLiteral("start_limit"));
    limit_->setWordWrap(true);
    limit_->setFont(Theme::text_font(14, true));
    worth_ = new QLabel;
    worth_->setObjectName(QStringLiteral("start_worth"));
    worth_->setWordWrap(true);
    words->addWidget(limit_);
    words->addWidget(worth_);
    words->addStretch();
    top->addLayout(words, 1);
    layout->addLayout(top);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("start_words"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    table_ = new NumberTable(QStringLiteral("start_assumed"));
    table_->setAccessibleName(tr("Numbers that are assumed, and by which rule"));
    table_->set_headings({tr("Assumed"), tr("Value"), tr("±"), tr("Unit"), tr("By which rule")});
    table_->wrap_last_column();
    layout->addWidget(table_, 1);
    auto* caution =
        new QLabel(tr("Advice only: makers' instructions, local rules and a competent person come first."));
    caution->setWordWrap(true);
    layout->addWidget(caution);
    return box;
}

void StartDialog::paint_sketch() {
    QPixmap out(2 * kSketch);
    out.setDevicePixelRatio(2);
    out.fill(theme_.color(Role::Panel));
    if (rigid_) {
        QPainter painter(&out);
        painter.setRenderHint(QPainter::Antialiasing);
        const Train& train = started_->train;
        const RigidMotion& rigid = *rigid_;
        const OutlineFrame frame = outline_frame(train, rigid, kSketch, 8, 4);
        const std::set<std::string> assumed = assumed_parts(train);
        for (const DrawnPart& part : resting(train, rigid))
            paint_outline(painter, theme_, part, outline_path(part, frame), false,
                          assumed.contains(part.key));
    }
    sketch_->setPixmap(out);
}

void StartDialog::fill_table() {
    const auto all = started_ ? assumed_numbers(started_->train) : std::vector<AssumedNumber>();
    table_->setRowCount(static_cast<int>(all.size()));
    for (int row = 0; row < table_->rowCount(); ++row) {
        const AssumedNumber& one = all[static_cast<std::size_t>(row)];
        const bool factor = one.key.ends_with("load_table");
        const auto number = [&](double si) {
            return rough(factor ? 100 * si : units_.value(one.quantity, si));
        };
        table_->set_cell(row, 0, phrase(one.label), false);
        table_->set_cell(row, 1, number(one.value));
        table_->set_cell(row, 2, number(one.plus_minus));
        table_->set_cell(row, 3, factor ? QStringLiteral("%") : units_.unit_name(one.quantity), false);
        table_->set_cell(row, 4, phrase(rule_of(one.key)), false);
    }
}

void StartDialog::show_estimate() {
    const auto speed = [](const std::optional<double>& rpm) {
        return rpm ? fixed(*rpm, 0) : tr("above the range");
    };
    QString text = started_ ? tr("The limit is being computed…") : tr("No train yet");
    QStringList worth;
    if (const LimitUncertainty* band = estimate_.band(); band && started_) {
        text = tr("Limit %1 rev/min, from %2 to %3 in eight of ten cases")
                   .arg(speed(band->middle_rpm), speed(band->low_rpm), speed(band->high_rpm));
        if (estimate_.old())
            text += tr(" (old, computing…)");
        const auto& list = estimate_.worth();
        if (!list.empty())
            worth << tr("What would narrow it most:");
        else if (estimate_.running())
            worth << tr("Which number would narrow it most is being computed…");
        for (std::size_t i = 0; i < std::min<std::size_t>(kWorthShown, list.size()); ++i)
            worth << tr("%1. %2: from ± %3 to ± %4 rev/min")
                         .arg(i + 1)
                         .arg(phrase(list[i].act))
                         .arg(fixed((*band->high_rpm - *band->low_rpm) / 2, 0))
                         .arg(fixed(list[i].width_rpm / 2, 0));
    }
    if (!estimate_.failure().isEmpty())
        text = tr("The limit was not computed. %1").arg(estimate_.failure());
    limit_->setText(text);
    worth_->setText(worth.join(QLatin1Char('\n')));
}

void StartDialog::accept_train() {
    if (!started_)
        return;
    emit made(*started_);
    accept();
}

// Enter goes to the next number; Ctrl+Return makes the train.
void StartDialog::keyPressEvent(QKeyEvent* event) {
    const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    if (enter && event->modifiers() & Qt::ControlModifier)
        return accept_train();
    if (!enter)
        QDialog::keyPressEvent(event);
}

} // namespace bathmos::app
