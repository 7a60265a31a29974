// What the full model says of the train with what a sheet changes, beside the limit of now; worked out while
// readings are typed.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "core/bench/sheet_effect.h"

#include <QLabel>
#include <set>

namespace bathmos::app {

class SheetLimit : public QLabel {
    Q_OBJECT
  public:
    explicit SheetLimit(Context context, QWidget* parent = nullptr);
    /// With those of the changes whose keys are `taken`; hidden where that is the train as it is.
    void ask(const bench::SheetEffect& effect, const std::set<std::string>& taken);
    void stop();

  private:
    Context context_;
    Train asked_;              ///< what the words are of
    quint64 asked_number_ = 0; ///< and which train and limits were in hand
    Background work_;
};

} // namespace bathmos::app
