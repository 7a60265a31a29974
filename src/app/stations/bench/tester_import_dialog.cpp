#include "app/stations/bench/tester_import_dialog.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/instrument/instrument_line.h"
#include "core/problem/input_error.h"

#include <QComboBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

QStringList unit_names(Quantity quantity) {
    QStringList out;
    for (const std::string& unit : instrument::units_of(quantity))
        out << words(unit);
    return out;
}

} // namespace

TesterImportDialog::TesterImportDialog(const QString& path, QWidget* parent)
    : ColumnDialog(path, QStringLiteral("tester"), tr("Import springs from a tester"), parent,
                   io::kTesterTexts) {
    resize(720, 560);
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    layout->addLayout(form);
    const io::TesterMapping now =
        io::tester_mapping_of(remembered_mapping()).value_or(io::guess_tester_mapping(shape()));
    const auto add = [&](const char* name, const QString& label, const QStringList& items, int at) {
        QComboBox* out = choice(QLatin1String(name), label, items, at);
        form->addRow(label, out);
        return out;
    };
    const QStringList heights = unit_names(Quantity::Length), loads = unit_names(Quantity::Force);
    height_ = add("tester_height", tr("Height"), columns(), static_cast<int>(now.height));
    height_unit_ = add("tester_height_unit", tr("It is in"), heights,
                       std::max(0, static_cast<int>(heights.indexOf(words(now.height_unit)))));
    load_ = add("tester_load", tr("Load"), columns(), static_cast<int>(now.load));
    load_unit_ = add("tester_load_unit", tr("It is in"), loads,
                     std::max(0, static_cast<int>(loads.indexOf(words(now.load_unit)))));
    spring_ =
        add("tester_spring", tr("Serial of the spring"), QStringList{tr("not in this file")} + columns(),
            now.spring ? static_cast<int>(*now.spring) + 1 : 0);
    free_length_ = new QLineEdit(now.free_length_m ? QString::number(*now.free_length_m * 1e3) : QString());
    free_length_->setObjectName(QStringLiteral("tester_free_length"));
    free_length_->setAccessibleName(tr("Free length, mm"));
    free_length_->setPlaceholderText(tr("only where the height is how far it was pressed"));
    form->addRow(tr("Pressed from, mm"), free_length_);
    connect(free_length_, &QLineEdit::textChanged, this, &TesterImportDialog::check);
    finish(layout, tr("Make sheets of them"));
}

io::TesterMapping TesterImportDialog::mapping() const {
    io::TesterMapping out;
    out.height = static_cast<std::size_t>(std::max(0, height_->currentIndex()));
    out.load = static_cast<std::size_t>(std::max(0, load_->currentIndex()));
    out.height_unit = height_unit_->currentText().toStdString();
    out.load_unit = load_unit_->currentText().toStdString();
    if (spring_->currentIndex() > 0)
        out.spring = static_cast<std::size_t>(spring_->currentIndex()) - 1;
    if (const auto length_mm = parse_number(free_length_->text()); length_mm && *length_mm > 0)
        out.free_length_m = *length_mm * 1e-3;
    return out;
}

QString TesterImportDialog::look() {
    springs_.clear();
    springs_ = io::read_tester_file(native(path()), shape(), mapping());
    QStringList found;
    for (const io::TestedSpring& spring : springs_) {
        double low = 1e9, high = 0, most = 0;
        for (const bench::SheetRow& row : spring.rows) {
            low = std::min(low, row.cells[0].front());
            high = std::max(high, row.cells[0].front());
            most = std::max(most, row.cells[1].front());
        }
        found << tr("%1: %2 readings, %3 to %4 mm, up to %5 N")
                     .arg(spring.serial.empty() ? tr("one spring")
                                                : tr("spring %1").arg(words(spring.serial)))
                     .arg(spring.rows.size())
                     .arg(fixed(high * 1e3, 2))
                     .arg(fixed(low * 1e3, 2))
                     .arg(fixed(most, 0));
    }
    return found.mid(0, 5).join(QLatin1Char('\n')) +
           (found.size() > 5 ? tr("\n… %1 springs in all").arg(found.size()) : QString());
}

} // namespace bathmos::app
