#include "app/desk/dialogs.h"

#include <QCoreApplication>
#include <QFileDialog>
#include <QInputDialog>
#include <QMessageBox>
#include <QPrintDialog>
#include <QPrinter>
#include <QPushButton>

namespace bathmos::app {

Dialogs real_dialogs(QWidget* window) {
    const auto tr = [](const char* text) { return QCoreApplication::translate("Dialogs", text); };
    Dialogs out;
    const QString train_filter = tr("Train files (*.train.json);;All files (*)");
    const QString project_filter = tr("Projects (*.bathmos)");
    const QString table_filter = tr("Tables (*.csv);;All files (*)");
    out.open_train = [=] {
        return QFileDialog::getOpenFileName(
            window, tr("Open a project or a train file"), {},
            tr("Projects and trains (*.bathmos *.train.json *.backup-?);;All files (*)"));
    };
    out.save_train = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(window, tr("Export the train as"), proposed, train_filter);
    };
    out.open_rig = [=] {
        return QFileDialog::getOpenFileName(
            window, tr("Import a rig trace"), {},
            tr("Rig traces (*.csv *.txt *.tsv *.h5 *.hdf5 *.rig-stream);;All files (*)"));
    };
    out.unsaved = [=](const QString& name) {
        QMessageBox box(
            QMessageBox::Question, tr("Unsaved edits"),
            tr("%1 has edits and no project file yet. Opening another would lose them.").arg(name),
            QMessageBox::NoButton, window);
        auto* save = box.addButton(tr("Keep them as a project"), QMessageBox::AcceptRole);
        auto* discard = box.addButton(tr("Discard them"), QMessageBox::DestructiveRole);
        auto* cancel = box.addButton(tr("Keep this train open"), QMessageBox::RejectRole);
        box.setDefaultButton(cancel);
        box.exec();
        return box.clickedButton() == save      ? Unsaved::Save
               : box.clickedButton() == discard ? Unsaved::Discard
                                                : Unsaved::Cancel;
    };
    out.open_folder = [=] {
        return QFileDialog::getExistingDirectory(window, tr("Import a project folder"));
    };
    out.choose_folder = [=](const QString& proposed) {
        return QFileDialog::getExistingDirectory(window, tr("A new or empty folder"), proposed);
    };
    out.save_project = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(window, tr("Keep the project as"), proposed, project_filter);
    };
    out.open_damaged = [=] {
        return QFileDialog::getOpenFileName(window, tr("Rescue a damaged project"), {}, project_filter);
    };
    out.ask_words = [=](const QString& title, const QString& question, const QString& proposed) {
        return QInputDialog::getText(window, title, question, QLineEdit::Normal, proposed).trimmed();
    };
    out.save_table = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(window, tr("Export the shelf as"), proposed, table_filter);
    };
    out.open_table = [=] {
        return QFileDialog::getOpenFileName(window, tr("Import parts from a table"), {}, table_filter);
    };
    out.open_gauge = [=] {
        return QFileDialog::getOpenFileName(window, tr("Import a lobe profile"), {},
                                            tr("Tables (*.csv *.txt *.tsv *.dat);;All files (*)"));
    };
    out.save_file = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(window, tr("Export as"), proposed);
    };
    out.open_files = [=] {
        return QFileDialog::getOpenFileNames(window, tr("Photos and other files to keep"), {},
                                             tr("Pictures (*.png *.jpg *.jpeg);;All files (*)"));
    };
    out.open_logger = [=] {
        return QFileDialog::getOpenFileName(window, tr("Read a logger's file"), {},
                                            tr("Tables (*.csv *.txt *.tsv *.dat);;All files (*)"));
    };
    out.open_pull = [=] {
        return QFileDialog::getOpenFileName(window, tr("Import dyno pulls"), {},
                                            tr("Tables (*.csv *.txt *.tsv *.dat);;All files (*)"));
    };
    out.open_campaign = [=] {
        return QFileDialog::getOpenFileName(window, tr("Open a campaign"), {},
                                            tr("Campaigns (*.campaign.json);;All files (*)"));
    };
    out.open_sheets = [=] {
        return QFileDialog::getOpenFileNames(
            window, tr("Import bench sheets or files of a spring tester"), {},
            tr("Sheets and tables (*.sheet.json *.csv *.txt *.tsv *.dat);;All files (*)"));
    };
    out.save_results = [=](const QString& proposed) {
        return QFileDialog::getSaveFileName(
            window, tr("Export results"), proposed,
            tr("HDF5, all speeds (*.h5);;CSV, the motion at the cursor (*.csv)"));
    };
    out.choose_printer = [=](QPrinter& printer) {
        QPrintDialog dialog(&printer, window);
        dialog.setWindowTitle(tr("Print"));
        return dialog.exec() == QDialog::Accepted;
    };
    return out;
}

} // namespace bathmos::app
