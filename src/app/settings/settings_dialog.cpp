#include "app/settings/settings_dialog.h"

#include "app/desk/action_registry.h"
#include "app/text/words.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTabWidget>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

enum Column { kWhat, kValue, kTold };
enum KeyColumn { kAction, kKeys, kUsual };
constexpr int kRow_px = 36;

// By its place among setting_quantities(), where words are needed.
QString quantity_words(Quantity quantity) {
    switch (quantity) {
    case Quantity::Length:
        return SettingsDialog::tr("Lengths, lifts, lash");
    case Quantity::FineLength:
        return SettingsDialog::tr("Small lengths: noise, wear, seat");
    case Quantity::Force:
        return SettingsDialog::tr("Loads, forces");
    case Quantity::Stiffness:
        return SettingsDialog::tr("Stiffness, spring rate");
    case Quantity::Pressure:
        return SettingsDialog::tr("Pressure");
    case Quantity::Stress:
        return SettingsDialog::tr("Stress");
    case Quantity::Velocity:
        return SettingsDialog::tr("Velocity, seat landing");
    case Quantity::Power:
        return SettingsDialog::tr("Power");
    case Quantity::Torque:
        return SettingsDialog::tr("Torque");
    case Quantity::Torsion:
        return SettingsDialog::tr("Torsional stiffness");
    case Quantity::Inertia:
        return SettingsDialog::tr("Moment of inertia");
    case Quantity::Modulus:
        return SettingsDialog::tr("Elastic modulus");
    case Quantity::Density:
        return SettingsDialog::tr("Density");
    case Quantity::Viscous:
        return SettingsDialog::tr("Damping");
    case Quantity::ContactDamping:
        return SettingsDialog::tr("Damping of a contact");
    case Quantity::Area:
        return SettingsDialog::tr("Areas");
    case Quantity::Volume:
        return SettingsDialog::tr("Volumes");
    case Quantity::Leakage:
        return SettingsDialog::tr("Leakage of oil");
    case Quantity::LiftPerDegree:
        return SettingsDialog::tr("Lobe velocity");
    case Quantity::LiftPerDegree2:
        return SettingsDialog::tr("Lobe acceleration");
    default:
        return SettingsDialog::tr("Lobe jerk");
    }
}

QTableWidgetItem* plain(const QString& text) {
    auto* item = new QTableWidgetItem(text);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    return item;
}

QTableWidget* make_a_table(const QString& name, const QString& label, const QStringList& headings) {
    auto* out = new QTableWidget(0, static_cast<int>(headings.size()));
    out->setObjectName(name);
    out->setAccessibleName(label);
    out->setHorizontalHeaderLabels(headings);
    out->verticalHeader()->hide();
    out->verticalHeader()->setDefaultSectionSize(kRow_px);
    out->horizontalHeader()->setHighlightSections(false);
    out->setShowGrid(false);
    out->setSelectionMode(QAbstractItemView::SingleSelection);
    out->setSelectionBehavior(QAbstractItemView::SelectRows);
    out->setTabKeyNavigation(false);
    return out;
}

QString shown(const QKeySequence& keys) {
    return keys.isEmpty() ? QStringLiteral("–") : keys.toString(QKeySequence::NativeText);
}

} // namespace

SettingsDialog::SettingsDialog(const Settings& now, const ActionRegistry& actions, LimitsTold limits,
                               QWidget* parent)
    : QDialog(parent), actions_(actions), limits_(std::move(limits)), now_(now), keys_(now.keys) {
    setObjectName(QStringLiteral("settings_dialog"));
    setWindowTitle(tr("Settings"));
    resize(820, 620);
    auto* layout = new QVBoxLayout(this);
    auto* tabs = new QTabWidget;
    tabs->setObjectName(QStringLiteral("settings_tabs"));
    tabs->addTab(make_table(), tr("Settings"));
    tabs->addTab(make_keys(), tr("Keys"));
    layout->addWidget(tabs, 1);
    later_ = new QLabel(tr("Language, text size and decimal sign are in force from the next start on."));
    later_->setObjectName(QStringLiteral("settings_later"));
    later_->setWordWrap(true);
    layout->addWidget(later_);
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Use these"), QDialogButtonBox::AcceptRole)
        ->setObjectName(QStringLiteral("settings_accept"));
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons);
    refresh_later();
}

void SettingsDialog::add_row(const QString& label, QWidget* value, const QString& told) {
    const int row = table_->rowCount();
    table_->insertRow(row);
    table_->setItem(row, kWhat, plain(label));
    table_->setItem(row, kTold, plain(told));
    table_->item(row, kTold)->setToolTip(told);
    table_->setCellWidget(row, kValue, value);
}

QComboBox* SettingsDialog::add_choice(const QString& name, const QString& label, const QString& told) {
    auto* box = new QComboBox;
    box->setObjectName(QStringLiteral("setting_") + name);
    box->setAccessibleName(label);
    box->setAccessibleDescription(told);
    add_row(label, box, told);
    return box;
}

QWidget* SettingsDialog::make_table() {
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    auto* find = new QLineEdit;
    find->setObjectName(QStringLiteral("settings_find"));
    find->setAccessibleName(tr("Find a setting"));
    find->setPlaceholderText(tr("find a setting"));
    find->setClearButtonEnabled(true);
    layout->addWidget(find);
    table_ = make_a_table(QStringLiteral("settings_table"), tr("Settings"),
                          {tr("Setting"), tr("Value"), tr("What it does")});
    table_->setColumnWidth(kWhat, 210);
    table_->setColumnWidth(kValue, 190);
    table_->horizontalHeader()->setStretchLastSection(true);
    layout->addWidget(table_, 1);
    connect(find, &QLineEdit::textChanged, this, [this](const QString& text) { filter(table_, text); });

    language_ = add_choice(QStringLiteral("language"), tr("Language"), tr("of the window and its help"));
    language_->addItem(tr("as the desktop's"), QString());
    language_->addItem(QStringLiteral("English"), QStringLiteral("en"));
    language_->addItem(QStringLiteral("Deutsch"), QStringLiteral("de"));
    language_->setCurrentIndex(std::max(0, language_->findData(now_.language)));
    look_ = add_choice(QStringLiteral("look"), tr("Look"), tr("light paper or dark"));
    look_->addItems({tr("as the desktop's"), tr("light"), tr("dark")});
    look_->setCurrentIndex(static_cast<int>(now_.look));
    colours_ = add_choice(QStringLiteral("colours"), tr("Colours"),
                          tr("further apart: for readers who see red, green or blue less; marks and dashes "
                             "tell things apart in both"));
    colours_->addItems({tr("usual"), tr("further apart")});
    colours_->setCurrentIndex(static_cast<int>(now_.colours));
    text_ = add_choice(QStringLiteral("text_size"), tr("Text size"),
                       tr("all of the window grows with it; what has no room is reached by scrolling"));
    for (const int percent : text_sizes())
        text_->addItem(tr("%1 %").arg(percent), percent);
    text_->setCurrentIndex(text_->findData(now_.text_percent));
    decimal_ =
        add_choice(QStringLiteral("decimal_sign"), tr("Decimal sign"),
                   tr("in the window and in what is copied; typed, both are read; files keep the point"));
    decimal_->addItems({tr("as the language has it"), tr("point: 1.5"), tr("comma: 1,5")});
    decimal_->setCurrentIndex(static_cast<int>(now_.decimal));
    for (QComboBox* box : {language_, text_, decimal_})
        connect(box, &QComboBox::currentIndexChanged, this, [this] { refresh_later(); });
    auto* limits = new QPushButton(tr("Choose…"));
    limits->setObjectName(QStringLiteral("setting_limits"));
    limits->setAccessibleName(tr("Limits in force, check height"));
    limits->setEnabled(!limits_.words.isEmpty());
    connect(limits, &QPushButton::clicked, this, [this] {
        if (limits_.choose)
            limits_.choose();
    });
    add_row(tr("Limits, check height"), limits,
            limits_.words.isEmpty() ? tr("belong to a project; none is open") : limits_.words);
    add_units();
    return page;
}

void SettingsDialog::add_units() {
    units_ =
        add_choice(QStringLiteral("units"), tr("Units"), tr("of all quantities; those below may differ"));
    units_->addItems({tr("metric"), tr("inch")});
    for (int i = 0; i < setting_quantities().size(); ++i) {
        const Quantity quantity = setting_quantities()[i].quantity;
        QComboBox* box = add_choice(QStringLiteral("unit_") + QLatin1String(setting_quantities()[i].key),
                                    quantity_words(quantity), tr("its unit alone"));
        for (const UnitSystem system : {UnitSystem::Metric, UnitSystem::Inch})
            box->addItem(words(unit_of(quantity, system).name));
        by_quantity_.insert(i, box);
    }
    show_units(now_.units);
    connect(units_, &QComboBox::activated, this,
            [this](int index) { show_units(static_cast<UnitSystem>(index)); });
}

void SettingsDialog::show_units(const UnitChoice& units) {
    units_->setCurrentIndex(static_cast<int>(units.system()));
    for (const auto& [i, box] : by_quantity_.toStdMap())
        box->setCurrentIndex(static_cast<int>(units.of(setting_quantities()[i].quantity)));
}

QWidget* SettingsDialog::make_keys() {
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    auto* find = new QLineEdit;
    find->setObjectName(QStringLiteral("keys_find"));
    find->setAccessibleName(tr("Find an action"));
    find->setPlaceholderText(tr("find an action"));
    find->setClearButtonEnabled(true);
    layout->addWidget(find);
    key_table_ = make_a_table(QStringLiteral("keys_table"), tr("Keys of every action"),
                              {tr("Action"), tr("Keys"), tr("Usual keys")});
    key_table_->setColumnWidth(kAction, 380);
    key_table_->setColumnWidth(kKeys, 160);
    key_table_->horizontalHeader()->setStretchLastSection(true);
    key_table_->verticalHeader()->setDefaultSectionSize(24);
    layout->addWidget(key_table_, 1);
    connect(find, &QLineEdit::textChanged, this, [this](const QString& text) { filter(key_table_, text); });
    auto* line = new QHBoxLayout;
    new_keys_ = new QKeySequenceEdit;
    new_keys_->setObjectName(QStringLiteral("keys_new"));
    new_keys_->setAccessibleName(tr("New keys for the chosen action: press them"));
    auto* label = new QLabel(tr("New keys"));
    label->setBuddy(new_keys_);
    line->addWidget(label);
    line->addWidget(new_keys_, 1);
    const auto button = [&](const char* name, const QString& text) {
        auto* made = new QPushButton(text);
        made->setObjectName(QLatin1String(name));
        made->setAutoDefault(false);
        line->addWidget(made);
        return made;
    };
    give_ = button("keys_give", tr("Give it these"));
    usual_ = button("keys_usual", tr("Its usual ones"));
    none_ = button("keys_none", tr("None"));
    layout->addLayout(line);
    keys_told_ = new QLabel;
    keys_told_->setObjectName(QStringLiteral("keys_told"));
    keys_told_->setWordWrap(true);
    layout->addWidget(keys_told_);
    fill_keys();
    connect(key_table_, &QTableWidget::currentCellChanged, this, [this] { show_chosen_key(); });
    connect(new_keys_, &QKeySequenceEdit::keySequenceChanged, this, [this] { show_chosen_key(); });
    const auto current = [this] { return action_at(key_table_->currentRow()); };
    connect(give_, &QPushButton::clicked, this,
            [this, current] { choose_keys(current(), new_keys_->keySequence()); });
    connect(usual_, &QPushButton::clicked, this,
            [this, current] { choose_keys(current(), actions_.usual_keys(current())); });
    connect(none_, &QPushButton::clicked, this, [this, current] { choose_keys(current(), {}); });
    key_table_->setCurrentCell(0, kAction);
    show_chosen_key();
    return page;
}

void SettingsDialog::fill_keys() {
    QList<QAction*> actions = actions_.all();
    std::stable_sort(actions.begin(), actions.end(), [](const QAction* a, const QAction* b) {
        return a->text().localeAwareCompare(b->text()) < 0;
    });
    key_table_->setRowCount(static_cast<int>(actions.size()));
    for (int row = 0; row < key_table_->rowCount(); ++row) {
        const QAction* action = actions[row];
        auto* name = plain(action->text());
        name->setData(Qt::UserRole, action->objectName());
        key_table_->setItem(row, kAction, name);
        key_table_->setItem(row, kKeys, plain(shown(keys_of(action->objectName()))));
        key_table_->setItem(row, kUsual, plain(shown(actions_.usual_keys(action->objectName()))));
    }
}

void SettingsDialog::filter(QTableWidget* table, const QString& text) {
    for (int row = 0; row < table->rowCount(); ++row) {
        bool there = false;
        for (int column = 0; column < table->columnCount(); ++column)
            there = there || (table->item(row, column) &&
                              table->item(row, column)->text().contains(text.trimmed(), Qt::CaseInsensitive));
        table->setRowHidden(row, !there);
    }
}

QString SettingsDialog::action_at(int row) const {
    const QTableWidgetItem* item = key_table_->item(row, kAction);
    return item ? item->data(Qt::UserRole).toString() : QString();
}

QKeySequence SettingsDialog::keys_of(const QString& id) const {
    return keys_.value(id, actions_.usual_keys(id));
}

// The action that has the keys now, or that would hear them too: Ctrl+K and Ctrl+K, Ctrl+L cannot both be.
QString SettingsDialog::taken_by(const QKeySequence& keys, const QString& but) const {
    for (QAction* action : actions_.all()) {
        const QKeySequence other = keys_of(action->objectName());
        if (action->objectName() != but && !keys.isEmpty() && !other.isEmpty() &&
            (keys.matches(other) != QKeySequence::NoMatch || other.matches(keys) != QKeySequence::NoMatch))
            return action->text();
    }
    return {};
}

void SettingsDialog::choose_keys(const QString& id, const QKeySequence& keys) {
    const QString taken = taken_by(keys, id);
    if (id.isEmpty() || !taken.isEmpty())
        return keys_told_->setText(
            tr("▲ %1 belongs to \"%2\": give that one others first.").arg(shown(keys), taken));
    if (keys == actions_.usual_keys(id))
        keys_.remove(id);
    else
        keys_.insert(id, keys);
    const int row = key_table_->currentRow();
    key_table_->item(row, kKeys)->setText(shown(keys));
    new_keys_->clear();
    keys_told_->setText(tr("%1: %2").arg(key_table_->item(row, kAction)->text(), shown(keys)));
}

void SettingsDialog::show_chosen_key() {
    const QString id = action_at(key_table_->currentRow());
    const QKeySequence keys = new_keys_->keySequence();
    const QString taken = taken_by(keys, id);
    give_->setEnabled(!id.isEmpty() && !keys.isEmpty() && taken.isEmpty());
    usual_->setEnabled(!id.isEmpty());
    none_->setEnabled(!id.isEmpty());
    keys_told_->setText(
        taken.isEmpty() ? tr("Choose an action, press its new keys, give them to it.")
                        : tr("▲ %1 belongs to \"%2\": give that one others first.").arg(shown(keys), taken));
}

void SettingsDialog::refresh_later() {
    const Settings next = chosen();
    later_->setVisible(next.language != now_.language || next.text_percent != now_.text_percent ||
                       next.decimal != now_.decimal);
}

Settings SettingsDialog::chosen() const {
    Settings out;
    out.language = language_->currentData().toString();
    out.look = static_cast<LookChoice>(look_->currentIndex());
    out.colours = static_cast<Colours>(colours_->currentIndex());
    out.text_percent = text_->currentData().toInt();
    out.decimal = static_cast<DecimalSign>(decimal_->currentIndex());
    out.units = static_cast<UnitSystem>(units_->currentIndex());
    for (const auto& [i, box] : by_quantity_.toStdMap())
        out.units.set(setting_quantities()[i].quantity, static_cast<UnitSystem>(box->currentIndex()));
    out.keys = keys_;
    return out;
}

} // namespace bathmos::app
