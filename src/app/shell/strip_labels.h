// Where words stand on the threshold strip: never on each other, and never across another mark's line.
#pragma once

#include <QRectF>
#include <QVector>

namespace bathmos::app {

/// A mark with words of two lengths, px.
struct LabelWish {
    double x = 0, wide = 0, narrow = 0;
};

struct PlacedLabel {
    QRectF box;          ///< empty where no room is left
    bool narrow = false; ///< its short words
    int row = 0;         ///< its line goes from here to the axis
};

struct LabelRoom {
    double width = 0, top = 0, row_height = 15, gap = 6;
    int rows = 1;
    QRectF taken; ///< by something else
};

/// From the right to the left, or the other way round where that says more; each label takes a row in which
/// nothing is crossed, on either side of its mark, high up and over few marks that still wait; with its short
/// words where the long ones find no room.
QVector<PlacedLabel> place_labels(const QVector<LabelWish>& wishes, const LabelRoom& room);

} // namespace bathmos::app
