// What the user has chosen for the window: how it comes back, settings, print.
#include "app/desk/station.h"
#include "app/settings/settings_dialog.h"
#include "app/shell/limits_dialog.h"
#include "app/shell/main_window.h"
#include "app/shell/print_page.h"
#include "app/shell/window_memory.h"
#include "app/text/words.h"
#include "app/widgets/remembered.h"

#include <QCloseEvent>
#include <QDate>
#include <QFileInfo>
#include <QPrinter>
#include <QStackedWidget>

namespace bathmos::app {

void MainWindow::come_back() {
    const QString station = restore_window(*this);
    settings_ = read_settings(remembered());
    apply_settings();
    if (!station.isEmpty())
        show_station(station);
}

void MainWindow::apply_settings() {
    units_.set_choice(settings_.units);
    theme_.set_colours(settings_.colours);
    theme_.set_look(settings_.look == LookChoice::OfDesktop ? desktop_
                    : settings_.look == LookChoice::Dark    ? Look::Dark
                                                            : Look::Light);
    actions_.set_own_keys(settings_.keys);
}

void MainWindow::change_settings() {
    LimitsTold limits;
    if (document_.has_train()) {
        limits.words = tr("%1, duration checked at %2")
                           .arg(phrase(document_.limits().name),
                                units_.text(Quantity::Length, document_.limits().check_lift_m));
        limits.choose = [this] { choose_limits(); };
    }
    settings_.units = units_.choice(); // keys and the menu change them too
    SettingsDialog dialog(settings_, actions_, std::move(limits), this);
    if (dialog.exec() != QDialog::Accepted)
        return;
    settings_ = dialog.chosen();
    apply_settings();
    keep_settings();
}

void MainWindow::keep_settings() {
    settings_.units = units_.choice();
    if (!remember_)
        return;
    QSettings to = remembered();
    write_settings(settings_, to);
}

void MainWindow::toggle_look() {
    theme_.set_look(theme_.look() == Look::Light ? Look::Dark : Look::Light);
    settings_.look =
        theme_.look() == Look::Dark ? LookChoice::Dark : LookChoice::Light; // no more the desktop's
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (remember_)
        keep_window(*this, stack_->currentWidget()->objectName());
    keep_settings();
    QMainWindow::closeEvent(event);
}

void MainWindow::print_station() {
    QPrinter printer(QPrinter::HighResolution);
    printer.setPageOrientation(QPageLayout::Landscape);
    printer.setDocName(windowTitle());
    if (!dialogs_.choose_printer(printer))
        return;
    auto* station = static_cast<Station*>(stack_->currentWidget());
    PrintedWords on_page;
    on_page.title = station->title();
    if (document_.has_train())
        on_page.title =
            QStringLiteral("%1, %2 – %3")
                .arg(words(document_.train().name),
                     words(document_.project().revision_label(document_.shown())), station->title());
    on_page.under = tr("%1 · limits %2 · %3")
                        .arg(QFileInfo(document_.path()).fileName(), phrase(document_.limits().name),
                             QLocale().toString(QDate::currentDate(), QStringLiteral("yyyy-MM-dd")));
    on_page.caution = tr("Advice only: makers' instructions, local rules and a competent person come first.");
    if (!print_view(*station, theme_, on_page, printer))
        show_message(tr("Nothing was printed: the printer or its file cannot be written. Choose another."));
}

} // namespace bathmos::app
