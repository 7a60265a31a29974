// The questions that the window asks a person. Tests answer them instead, and see which were asked.
#pragma once

#include <QString>
#include <QStringList>
#include <functional>

class QPrinter;
class QWidget;

namespace bathmos::app {

enum class Unsaved { Save, Discard, Cancel };

struct Dialogs {
    std::function<QString()> open_train; ///< path, "" for none
    std::function<QString(const QString& proposed)> save_train;
    std::function<QString()> open_rig;
    std::function<Unsaved(const QString& name)> unsaved;
    std::function<QString(const QString& proposed)> save_results;
    std::function<QString()> open_folder;                          ///< that an export has written
    std::function<QString(const QString& proposed)> choose_folder; ///< new or empty
    std::function<QString(const QString& proposed)> save_project;
    std::function<QString()> open_damaged;
    /// A line or two of words, e.g. a reason; "" for none.
    std::function<QString(const QString& title, const QString& question, const QString& proposed)> ask_words;
    std::function<QString(const QString& proposed)> save_table; ///< CSV
    std::function<QString()> open_table;
    std::function<QString()> open_gauge;                       ///< readings of a lobe
    std::function<QString(const QString& proposed)> save_file; ///< by the proposed name's ending
    std::function<QString()> open_pull;                        ///< of a dyno
    std::function<QString()> open_campaign;
    std::function<QStringList()> open_sheets;      ///< bench sheets, or files of a spring tester
    std::function<QString()> open_logger;          ///< time and crank speed
    std::function<QStringList()> open_files;       ///< photos and other files to keep
    std::function<bool(QPrinter&)> choose_printer; ///< and how: false for not at all
};

/// The real ones, over a window.
Dialogs real_dialogs(QWidget* window);

} // namespace bathmos::app
