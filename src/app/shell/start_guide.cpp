#include "app/shell/start_guide.h"

#include "app/text/words.h"
#include "app/widgets/remembered.h"
#include "io/train/known_json.h"

namespace bathmos::app {

namespace {
const auto kTyped = QStringLiteral("start/typed");
} // namespace

StartGuide::StartGuide(Theme& theme, DisplayUnits& units, const Dialogs& dialogs, ProjectFiles& files,
                       bool remember, QWidget* window)
    : QObject(window), theme_(theme), units_(units), dialogs_(dialogs), files_(files), remember_(remember),
      window_(window) {
    if (!remember_)
        return;
    try {
        const QString typed = remembered().value(kTyped).toString();
        if (!typed.isEmpty())
            known_ = io::known_from_json(io::parse_json(typed.toStdString()));
    } catch (const InputError&) { // of another version: the page begins empty
    }
}

void StartGuide::open() {
    if (dialog_)
        return dialog_->raise();
    dialog_ = new StartDialog(theme_, units_, dialogs_, window_);
    dialog_->setAttribute(Qt::WA_DeleteOnClose);
    if (known_ != KnownTrain{})
        dialog_->show_known(known_);
    connect(dialog_, &StartDialog::known_changed, this, [this] { keep(dialog_->known()); });
    connect(dialog_, &StartDialog::made, this, [this](const StartedTrain& started) {
        if (!files_.start_with(started))
            return;
        keep({});
        emit made();
    });
    dialog_->open();
}

void StartGuide::open_file(const QString& path) {
    known_ = io::read_known(native(path));
    open();
    dialog_->show_known(known_);
}

void StartGuide::keep(const KnownTrain& known) {
    known_ = known;
    if (remember_)
        remembered().setValue(kTyped, known == KnownTrain{}
                                          ? QString()
                                          : QString::fromStdString(io::json_text(io::known_json(known))));
}

} // namespace bathmos::app
