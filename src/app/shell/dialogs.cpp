#include "app/shell/dialogs.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QPushButton>

namespace bathmos::app {

Dialogs real_dialogs(QWidget* window) {
    const auto tr = [](const char* text) { return QFileDialog::tr(text); };
    Dialogs out;
    const QString train_filter = tr("Train files (*.train.json);;All files (*)");
    out.open_train = [=] {
        return QFileDialog::getOpenFileName(window, tr("Open a train file"), {}, train_filter);
    };
    out.save_train = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(window, tr("Save the train as"), proposed, train_filter);
    };
    out.open_rig = [=] {
        return QFileDialog::getOpenFileName(window, tr("Import a rig trace"), {},
                                            tr("Rig traces (*.csv *.txt *.tsv *.h5 *.hdf5);;All files (*)"));
    };
    out.unsaved = [=](const QString& name) {
        QMessageBox box(
            QMessageBox::Question, tr("Unsaved edits"),
            tr("%1 has edits that are not in its file. Opening another train would lose them.").arg(name),
            QMessageBox::NoButton, window);
        auto* save = box.addButton(tr("Save them"), QMessageBox::AcceptRole);
        auto* discard = box.addButton(tr("Discard them"), QMessageBox::DestructiveRole);
        auto* cancel = box.addButton(tr("Keep this train open"), QMessageBox::RejectRole);
        box.setDefaultButton(cancel);
        box.exec();
        return box.clickedButton() == save      ? Unsaved::Save
               : box.clickedButton() == discard ? Unsaved::Discard
                                                : Unsaved::Cancel;
    };
    out.save_results = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(
            window, tr("Export results"), proposed,
            tr("HDF5, all speeds (*.h5);;CSV, the motion at the cursor (*.csv)"));
    };
    return out;
}

} // namespace bathmos::app
