// The layout of a train, chosen by its picture.
#pragma once

#include "app/theme/theme.h"
#include "core/train/train.h"

#include <QWidget>

class QButtonGroup;

namespace bathmos::app {

class LayoutChoice : public QWidget {
    Q_OBJECT
  public:
    explicit LayoutChoice(const Theme& theme, QWidget* parent = nullptr);
    Layout chosen() const;
    void choose(Layout layout);

  signals:
    void changed();

  private:
    QButtonGroup* group_;
};

} // namespace bathmos::app
