#include "app/imports/column_dialog.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "app/widgets/remembered.h"
#include "core/problem/input_error.h"

#include <QBoxLayout>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileInfo>
#include <QLabel>
#include <QPushButton>

namespace bathmos::app {

ColumnDialog::ColumnDialog(const QString& path, const QString& source, const QString& title, QWidget* parent,
                           std::size_t texts)
    : QDialog(parent), path_(path), source_(source), shape_(io::sniff_table(native(path), texts)) {
    setObjectName(source + QStringLiteral("_import"));
    setWindowTitle(tr("%1: %2").arg(title, QFileInfo(path).fileName()));
}

QStringList ColumnDialog::columns() const {
    QStringList out;
    for (const std::string& column : shape_.columns)
        out.push_back(words(column));
    return out;
}

QComboBox* ColumnDialog::column_choice(const QString& name, const QString& label,
                                       const std::optional<std::size_t>& now) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->addItem(tr("not in this file"), -1);
    for (std::size_t i = 0; i < shape_.columns.size(); ++i)
        box->addItem(words(shape_.columns[i]), static_cast<int>(i));
    choose(box, now);
    connect(box, &QComboBox::currentIndexChanged, this, &ColumnDialog::check);
    return box;
}

QComboBox* ColumnDialog::choice(const QString& name, const QString& label, const QStringList& items,
                                int now) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(label);
    box->addItems(items);
    box->setCurrentIndex(now);
    connect(box, &QComboBox::currentIndexChanged, this, &ColumnDialog::check);
    return box;
}

std::optional<std::size_t> ColumnDialog::chosen(const QComboBox* box) {
    const int column = box->currentData().toInt();
    return column < 0 ? std::nullopt : std::optional(static_cast<std::size_t>(column));
}

void ColumnDialog::choose(QComboBox* box, const std::optional<std::size_t>& column) {
    box->setCurrentIndex(
        column && static_cast<int>(*column) + 1 < box->count() ? static_cast<int>(*column) + 1 : 0);
}

QString ColumnDialog::key() const {
    return remembered_key(source_ + QStringLiteral("_mapping"), io::shape_key(shape_));
}

std::string ColumnDialog::remembered_mapping() const {
    return remembered().value(key()).toString().toStdString();
}

void ColumnDialog::remember() const {
    remembered().setValue(key(), words(mapping_line()));
}

QWidget* ColumnDialog::make_preview() const {
    auto* preview = new NumberTable(source_ + QStringLiteral("_preview"));
    preview->setAccessibleName(tr("First rows of the file"));
    preview->set_headings(columns());
    preview->setRowCount(static_cast<int>(shape_.preview.size()));
    for (int row = 0; row < preview->rowCount(); ++row) {
        const auto& fields = shape_.preview[static_cast<std::size_t>(row)];
        for (int column = 0; column < preview->columnCount(); ++column)
            preview->set_cell(row, column,
                              column < static_cast<int>(fields.size())
                                  ? words(fields[static_cast<std::size_t>(column)])
                                  : QString());
    }
    return preview;
}

void ColumnDialog::finish(QBoxLayout* layout, const QString& accept) {
    layout->addWidget(make_preview(), 1);
    words_ = new QLabel;
    words_->setObjectName(source_ + QStringLiteral("_verdict"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    auto* buttons = new QDialogButtonBox;
    accept_ = buttons->addButton(accept, QDialogButtonBox::AcceptRole);
    accept_->setObjectName(source_ + QStringLiteral("_accept"));
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    layout->addWidget(buttons);
    check();
}

void ColumnDialog::check() {
    if (!accept_)
        return;
    problem_.clear();
    QString found;
    try {
        found = look();
    } catch (const InputError& error) {
        problem_ = phrase(error.what());
    }
    words_->setText(problem_.isEmpty() ? found : QStringLiteral("■ ") + problem_);
    accept_->setEnabled(problem_.isEmpty());
}

} // namespace bathmos::app
