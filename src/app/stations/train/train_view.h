// The to-scale drawing of the train at the crank-angle cursor, with the computed motion where there is one.
#pragma once

#include "app/desk/context.h"
#include "app/widgets/train_outline.h"
#include "core/project/part.h"
#include "core/train/train_drawing.h"

#include <QWidget>
#include <optional>

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
    /// Where a part's outline has its middle on screen; for tests and pointing.
    std::optional<QPointF> middle_of(PartKind kind) const;
    std::optional<PartKind> chosen() const { return chosen_; }

  signals:
    void part_chosen(PartKind kind);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    struct OnScreen {
        DrawnPart part;
        QPainterPath path;
    };
    OutlineFrame frame() const;
    std::vector<OnScreen> drawn() const;
    void choose(PartKind kind);
    void paint_findings(QPainter& painter) const;
    std::optional<PartKind> chosen_;
    void describe();
    QString troubles(const TrainPose& pose) const;
    Context context_;
    double exaggeration_ = 1;
};

} // namespace bathmos::app
