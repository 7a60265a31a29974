#include "app/stations/rig/programme_shelf.h"

#include "app/stations/rig/programme_table.h"
#include "app/text/words.h"
#include "core/problem/input_error.h"
#include "session/live/programme_record.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QSignalBlocker>

namespace bathmos::app {

ProgrammeShelf::ProgrammeShelf(Context context, ProgrammeTable& table, QWidget* parent)
    : QWidget(parent), context_(context), table_(table), name_(new QComboBox),
      keep_(new QPushButton(tr("Keep"))), remove_(new QPushButton(tr("Take out"))) {
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(4);
    name_->setObjectName(QStringLiteral("live_programme"));
    name_->setAccessibleName(tr("Programme by name"));
    name_->setToolTip(tr("Programmes that this project keeps; type a name for a new one"));
    name_->setEditable(true);
    name_->setInsertPolicy(QComboBox::NoInsert);
    name_->lineEdit()->setPlaceholderText(tr("its name"));
    name_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    name_->setMinimumContentsLength(10);
    keep_->setObjectName(QStringLiteral("live_keep_programme"));
    keep_->setToolTip(tr("Keeps the legs below under this name; Undo takes it back"));
    remove_->setObjectName(QStringLiteral("live_remove_programme"));
    line->addWidget(name_, 1);
    line->addWidget(keep_);
    line->addWidget(remove_);
    connect(name_, &QComboBox::activated, this, &ProgrammeShelf::load);
    connect(name_->lineEdit(), &QLineEdit::textChanged, this, [this] { remove_->setEnabled(chosen() != 0); });
    connect(keep_, &QPushButton::clicked, this, &ProgrammeShelf::keep);
    connect(remove_, &QPushButton::clicked, this, &ProgrammeShelf::remove);
    connect(&context_.document, &Document::records_changed, this, &ProgrammeShelf::refresh);
    connect(&context_.document, &Document::revision_shown, this, &ProgrammeShelf::refresh);
    refresh();
}

Id ProgrammeShelf::chosen() const {
    return context_.document.has_train()
               ? session::programme_named(context_.document.project(), context_.document.build(),
                                          name_->currentText().trimmed().toStdString())
               : 0;
}

void ProgrammeShelf::refresh() {
    QStringList names;
    const Project& project = context_.document.project();
    if (context_.document.has_train())
        for (const Id id : session::programmes_of(project, context_.document.build()))
            names << words(project.of(EntryKind::Plan).at(id).name);
    const QString typed = name_->currentText();
    const QSignalBlocker quiet(name_);
    name_->clear();
    name_->addItems(names);
    name_->setCurrentText(typed);
    keep_->setEnabled(context_.document.has_train());
    remove_->setEnabled(chosen() != 0);
}

void ProgrammeShelf::load(int) {
    const Id id = chosen();
    if (id == 0)
        return;
    try {
        table_.show_programme(session::programme_of(context_.document.project().of(EntryKind::Plan).at(id)));
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
    }
}

void ProgrammeShelf::keep() {
    try {
        live::Programme programme = table_.programme();
        programme.name = name_->currentText().trimmed().toStdString();
        const Entry record = session::programme_record(programme, context_.document.shown());
        if (const Id id = chosen(); id != 0)
            context_.document.set_entry(EntryKind::Plan, id, record, tr("Programme changed"));
        else
            context_.document.add_entry(EntryKind::Plan, record, tr("Programme kept"));
        emit message(tr("The programme was kept: %1").arg(words(programme.name)));
    } catch (const InputError& error) {
        emit message(tr("Not kept. %1").arg(phrase(error.what())));
    }
}

void ProgrammeShelf::remove() {
    if (const Id id = chosen(); id != 0)
        context_.document.remove_entry(EntryKind::Plan, id, tr("Programme taken out"));
}

} // namespace bathmos::app
