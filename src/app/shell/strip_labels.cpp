#include "app/shell/strip_labels.h"

#include <algorithm>
#include <numeric>
#include <optional>

namespace bathmos::app {

namespace {

class Placing {
  public:
    Placing(const QVector<LabelWish>& wishes, const LabelRoom& room)
        : wishes_(wishes), room_(room), placed_(wishes.size()) {}

    /// From the right, each label left of its mark where it can be; or from the left, the other way round.
    QVector<PlacedLabel> run(bool from_right) {
        from_right_ = from_right;
        placed_.fill({});
        done_.clear();
        QVector<int> order(wishes_.size());
        std::iota(order.begin(), order.end(), 0);
        std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
            return from_right ? wishes_[a].x > wishes_[b].x : wishes_[a].x < wishes_[b].x;
        });
        for (const int i : order)
            if (const auto found = best(i)) {
                placed_[i] = *found;
                done_.push_back(i);
            }
        return placed_;
    }

  private:
    // High up, with its long words, and over as few marks as possible that still need a place: each of those
    // has to go below.
    std::optional<PlacedLabel> best(int i) const {
        const LabelWish& wish = wishes_[i];
        std::optional<PlacedLabel> out;
        int least = 0;
        for (const bool narrow : {false, true})
            for (const bool left : {from_right_, !from_right_})
                for (int row = 0; row < room_.rows; ++row) {
                    const double wide = narrow ? wish.narrow : wish.wide;
                    const QRectF box(left ? wish.x - room_.gap - wide : wish.x + room_.gap,
                                     room_.top + row * room_.row_height, wide, room_.row_height);
                    const int cost = 4 * waiting_under(box) + (narrow ? 12 : 0) + row;
                    if ((!out || cost < least) && free(i, box, row)) {
                        out = PlacedLabel{box, narrow, row};
                        least = cost;
                    }
                }
        return out;
    }

    int waiting_under(const QRectF& box) const {
        int out = 0;
        for (int k = 0; k < wishes_.size(); ++k)
            out += across(wishes_[k].x, box) && !done_.contains(k);
        return out;
    }

    bool across(double x, const QRectF& box) const { return x > box.left() - 3 && x < box.right() + 3; }

    bool free(int i, const QRectF& box, int row) const {
        if (box.left() < 0 || box.right() > room_.width || box.intersects(room_.taken))
            return false;
        if (across(wishes_[i].x, room_.taken) && row * room_.row_height + room_.top < room_.taken.bottom())
            return false;
        return std::all_of(done_.begin(), done_.end(), [&](int k) {
            const PlacedLabel& other = placed_[k];
            if (other.box.adjusted(-room_.gap, 0, room_.gap, 0).intersects(box))
                return false;
            if (across(wishes_[i].x, other.box) && other.row >= row) // this line through those words
                return false;
            return !across(wishes_[k].x, box) || other.row > row; // that line through these
        });
    }

    const QVector<LabelWish>& wishes_;
    const LabelRoom& room_;
    QVector<PlacedLabel> placed_;
    QVector<int> done_;
    bool from_right_ = true;
};

// How much of what was wished stands there.
int said(const QVector<PlacedLabel>& labels) {
    int out = 0;
    for (const PlacedLabel& label : labels)
        out += label.box.isEmpty() ? 0 : label.narrow ? 3 : 4;
    return out;
}

} // namespace

QVector<PlacedLabel> place_labels(const QVector<LabelWish>& wishes, const LabelRoom& room) {
    Placing placing(wishes, room);
    const QVector<PlacedLabel> one = placing.run(true), other = placing.run(false);
    return said(other) > said(one) ? other : one;
}

} // namespace bathmos::app
