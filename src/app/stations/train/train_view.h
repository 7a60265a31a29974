// The to-scale drawing of the train at the crank-angle cursor, with the computed motion where there is one.
#pragma once

#include "app/shell/context.h"
#include "core/train/train_drawing.h"

#include <QWidget>

namespace bathmos::app {

class TrainView : public QWidget {
    Q_OBJECT
  public:
    explicit TrainView(Context context, QWidget* parent = nullptr);
    TrainPose pose() const;
    /// Multiplies what differs from the rigid motion; said in the picture.
    void set_exaggeration(double factor);
    /// "computed at 7700 rev/min" or "rigid".
    QString pose_source() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void describe();
    QString troubles(const TrainPose& pose) const;
    Context context_;
    double exaggeration_ = 1;
};

} // namespace bathmos::app
