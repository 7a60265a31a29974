// The questions that the window asks a person. Tests answer them instead, and see which were asked.
#pragma once

#include <QString>
#include <functional>

class QWidget;

namespace bathmos::app {

enum class Unsaved { Save, Discard, Cancel };

struct Dialogs {
    std::function<QString()> open_train; ///< path, "" for none
    std::function<QString(const QString& proposed)> save_train;
    std::function<QString()> open_rig;
    std::function<Unsaved(const QString& name)> unsaved;
    std::function<QString(const QString& proposed)> save_results;
};

/// The real ones, over a window.
Dialogs real_dialogs(QWidget* window);

} // namespace bathmos::app
