#include "core/train/train_drawing.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

using Points = std::vector<DrawnPoint>;

Points rectangle(double x0, double y0, double x1, double y1) {
    return {{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}};
}

Points circle(double x, double y, double radius) {
    Points out;
    for (int i = 0; i < 48; ++i) {
        const double a = 2 * kPi * i / 48;
        out.push_back({x + radius * std::cos(a), y + radius * std::sin(a)});
    }
    return out;
}

// A bar with round ends between two points.
Points bar(DrawnPoint a, DrawnPoint b, double radius_a, double radius_b) {
    const double along = std::atan2(b.y_m - a.y_m, b.x_m - a.x_m);
    Points out;
    for (int i = 0; i <= 12; ++i) {
        const double t = along + kPi / 2 + kPi * i / 12;
        out.push_back({a.x_m + radius_a * std::cos(t), a.y_m + radius_a * std::sin(t)});
    }
    for (int i = 0; i <= 12; ++i) {
        const double t = along - kPi / 2 + kPi * i / 12;
        out.push_back({b.x_m + radius_b * std::cos(t), b.y_m + radius_b * std::sin(t)});
    }
    return out;
}

// The cam's contour, follower straight above it: inner parallel of the roller's path, or envelope of a flat
// face.
Points cam_contour(const Train& train, const RigidMotion& rigid, double x, double y, double cam_rad) {
    const Lobe& lobe = train.lobe;
    Points out;
    for (int i = 0; i < 240; ++i) {
        const double theta = 2 * kPi * i / 240;
        const double s = rigid.lobe().at(theta), slope = rigid.lobe().at(theta, 1);
        double radial,
            tangential; // in the frame whose radial axis points from the cam's centre to the follower
        if (lobe.follower == FollowerKind::Flat) {
            radial = lobe.base_radius_m + s;
            tangential = slope;
        } else {
            const double pitch = lobe.base_radius_m + lobe.follower_radius_m + s;
            const double length = std::hypot(pitch, slope);
            radial = pitch - lobe.follower_radius_m * pitch / length;
            tangential = lobe.follower_radius_m * slope / length;
        }
        // When the cam is at angle theta this contour point faces the follower; turn it to where it is now.
        const double turn = kPi / 2 + (theta - cam_rad);
        out.push_back({x + radial * std::cos(turn) - tangential * std::sin(turn),
                       y + radial * std::sin(turn) + tangential * std::cos(turn)});
    }
    return out;
}

double coil_radius_at(const CoilGeometry& coil, double share) {
    const std::size_t n = coil.mean_diameter_m.size();
    return 0.5 *
           coil.mean_diameter_m[std::min(n - 1, static_cast<std::size_t>(share * static_cast<double>(n)))];
}

// A spring cut through its middle: a circle of wire wherever a coil passes the plane, left and right in turn.
void add_spring(const Spring& spring, const TrainPose::Coils* places, double x, double bottom, double top,
                std::vector<DrawnPart>& out) {
    const auto* coil = std::get_if<CoilGeometry>(&spring.kind);
    if (!coil) { // known by its loads only: two lines for where it stands
        for (const double side : {-0.014, 0.014})
            out.push_back({"springs", {{x + side, bottom}, {x + side, top}}, false});
        return;
    }
    const double wire = axial_wire_m(*coil), span = top - bottom - wire;
    const double coils = coil->active_coils + coil->dead_coils;
    const int halves = std::max(2, static_cast<int>(std::lround(2 * coils)));
    for (int i = 0; i <= halves; ++i) {
        const double share = static_cast<double>(i) / halves, radius = coil_radius_at(*coil, share);
        double up = share * span;
        bool clash = false;
        if (places && !places->node_m.empty()) {
            const auto segments = static_cast<double>(places->node_m.size() - 1);
            const double active = (share * coils - coil->dead_coils) / coil->active_coils * segments;
            const auto j = static_cast<std::size_t>(std::clamp(active, 0.0, segments - 1));
            const double within = std::clamp(active - static_cast<double>(j), 0.0, 1.0);
            const double height = places->node_m[j] + within * (places->node_m[j + 1] - places->node_m[j]);
            up = (active <= 0 ? share * coils * wire : height) - wire * share;
            clash = active > 0 && places->closed[j];
        }
        DrawnPart wire_part{"springs",
                            circle(x + (i % 2 ? radius : -radius), bottom + wire / 2 + up, wire / 2)};
        wire_part.clash = clash;
        out.push_back(wire_part);
    }
}

struct ValveEnd {
    double x, tip_y; ///< of the valve tip in this pose
};

// Valve hanging down from its tip, its springs, retainer and seat.
void add_valve(const Train& train, const TrainPose& pose, ValveEnd end, std::vector<DrawnPart>& out) {
    const double stem = train.valve.stem_diameter_m / 2, head = train.valve.head_diameter_m / 2;
    const double tip_to_retainer = 0.006, guide = 0.035;
    const double seat_y = end.tip_y - tip_to_retainer - train.installed_height_m; // spring seat, fixed
    const double head_y = seat_y - guide - 0.02;
    const double down = pose.lift_m;
    out.push_back(
        {"seat", rectangle(end.x - head - 0.006, head_y - 0.004, end.x - head + 0.001, head_y + 0.004)});
    out.push_back(
        {"seat", rectangle(end.x + head - 0.001, head_y - 0.004, end.x + head + 0.006, head_y + 0.004)});
    out.push_back(
        {"guide", rectangle(end.x - stem - 0.004, seat_y - guide, end.x + stem + 0.004, seat_y - 0.002)});
    const double tip = end.tip_y - down, disc = head_y - down;
    out.push_back({"valve",
                   {{end.x - stem, tip},
                    {end.x + stem, tip},
                    {end.x + stem, disc + 0.012},
                    {end.x + head, disc + 0.003},
                    {end.x + head, disc - 0.001},
                    {end.x - head, disc - 0.001},
                    {end.x - head, disc + 0.003},
                    {end.x - stem, disc + 0.012}}});
    const double retainer_y = end.tip_y - tip_to_retainer - down;
    double widest = 0.012;
    for (std::size_t i = 0; i < train.springs.size(); ++i) {
        const Spring& spring = train.springs[i];
        add_spring(spring, i < pose.coils.size() ? &pose.coils[i] : nullptr, end.x, seat_y, retainer_y, out);
        if (const auto* coil = std::get_if<CoilGeometry>(&spring.kind))
            widest = std::max(widest, coil->mean_diameter_m.back() / 2 + coil->wire_m / 2);
    }
    out.push_back({"retainer", rectangle(end.x - widest, retainer_y, end.x + widest, retainer_y + 0.004)});
    out.push_back(
        {"spring seat", rectangle(end.x - widest - 0.004, seat_y - 0.003, end.x + widest + 0.004, seat_y)});
}

void draw_rocker(DrawnPoint cup, DrawnPoint pivot, DrawnPoint tip, bool tip_apart,
                 std::vector<DrawnPart>& out) {
    DrawnPart left{"rocker", bar(cup, pivot, 0.005, 0.009)}, right{"rocker", bar(pivot, tip, 0.009, 0.005)};
    left.apart = right.apart = tip_apart;
    out.push_back(left);
    out.push_back(right);
    out.push_back({"pivot", circle(pivot.x_m, pivot.y_m, 0.005)});
}

void add_cam(const Train& train, const RigidMotion& rigid, const TrainPose& pose, DrawnPoint centre,
             std::vector<DrawnPart>& out) {
    DrawnPart cam{"lobe", cam_contour(train, rigid, centre.x_m, centre.y_m, pose.cam_rad)};
    cam.apart = pose.cam_apart;
    out.push_back(cam);
    out.push_back({"lobe", circle(centre.x_m, centre.y_m, 0.3 * train.lobe.base_radius_m)});
}

// Follower in contact: roller with its body, or a flat face; returns the y of its top.
double add_follower(const Train& train, const TrainPose& pose, DrawnPoint cam, double half_width,
                    double height, std::vector<DrawnPart>& out) {
    const double face = cam.y_m + train.lobe.base_radius_m + pose.follower_m;
    double bottom = face;
    if (train.lobe.follower == FollowerKind::Roller) {
        out.push_back({"lobe.follower",
                       circle(cam.x_m, face + train.lobe.follower_radius_m, train.lobe.follower_radius_m)});
        bottom = face + train.lobe.follower_radius_m;
    }
    out.push_back({"lifter", rectangle(cam.x_m - half_width, bottom, cam.x_m + half_width, bottom + height)});
    return bottom + height;
}

// Rocker angle for an input travel: level at half of the largest travel.
double rocker_angle(const Train& train, const RigidMotion& rigid, double input_m) {
    return (input_m - 0.5 * rigid.lobe().lift_m()) / train.rocker->input_arm_m;
}

constexpr double kLongestRod_m = 0.07; // drawn

// A rod from its end to a slanting cut across the axis of the lifter.
DrawnPart cut_rod(DrawnPoint end, double cut_y_m, double half_m, bool apart) {
    DrawnPart out{"pushrod",
                  {{end.x_m - half_m, end.y_m},
                   {end.x_m + half_m, end.y_m},
                   {half_m, cut_y_m + 0.5 * half_m},
                   {-half_m, cut_y_m - 0.5 * half_m}}};
    out.apart = apart;
    return out;
}

void draw_pushrod(const Train& train, const RigidMotion& rigid, const TrainPose& pose,
                  std::vector<DrawnPart>& out) {
    const DrawnPoint cam{0, 0};
    add_cam(train, rigid, pose, cam, out);
    const double top = add_follower(train, pose, cam, 0.0105, 0.03, out);
    const double angle = rocker_angle(train, rigid, pose.input_m), in = train.rocker->input_arm_m,
                 o = train.rocker->output_arm_m;
    // The pivot's height follows from the closed train with the rocker at its lowest input.
    const double cup_closed =
        train.lobe.base_radius_m +
        (train.lobe.follower == FollowerKind::Roller ? train.lobe.follower_radius_m : 0) + 0.03 +
        std::min(train.pushrod->length_m, kLongestRod_m);
    const DrawnPoint pivot{in, cup_closed + in * std::sin(0.5 * rigid.lobe().lift_m() / in)};
    const DrawnPoint cup{pivot.x_m - in * std::cos(angle), pivot.y_m + in * std::sin(angle)};
    const DrawnPoint tip{pivot.x_m + o * std::cos(angle), pivot.y_m - o * std::sin(angle)};
    const double rod = train.pushrod->outer_diameter_m / 2;
    if (rod_is_shortened(train)) {
        const double cut = 0.5 * (top + cup.y_m);
        out.push_back(cut_rod({0, top}, cut - 0.003, rod, pose.link_apart));
        out.push_back(cut_rod(cup, cut + 0.003, rod, pose.link_apart));
    } else {
        DrawnPart pushrod{"pushrod", bar({0, top}, cup, rod, rod)};
        pushrod.apart = pose.link_apart;
        out.push_back(pushrod);
    }
    const double tip_closed = pivot.y_m + o * std::sin(0.5 * rigid.lobe().lift_m() / in);
    add_valve(train, pose, {pivot.x_m + o, tip_closed - 0.005 - train.effective_lash_m()}, out);
    draw_rocker(cup, pivot, tip, pose.tip_apart, out);
}

void draw_bucket(const Train& train, const RigidMotion& rigid, const TrainPose& pose,
                 std::vector<DrawnPart>& out) {
    // Drawn upside down like the others' cam side, then turned so that the valve hangs below the cam.
    std::vector<DrawnPart> upper;
    add_cam(train, rigid, pose, {0, 0}, upper);
    add_follower(train, pose, {0, 0}, 0.015, 0.012, upper);
    for (DrawnPart& part : upper)
        for (DrawnPoint& p : part.outline)
            p.y_m = -p.y_m;
    const double roller = train.lobe.follower == FollowerKind::Roller ? train.lobe.follower_radius_m : 0;
    add_valve(train, pose, {0, -(train.lobe.base_radius_m + roller + 0.012) - train.effective_lash_m()}, out);
    out.insert(out.end(), upper.begin(), upper.end());
}

// Cam on the rocker itself: between pivot and valve above a finger, below the far end of a centre-pivot
// rocker.
void draw_rocker_or_finger(const Train& train, const RigidMotion& rigid, const TrainPose& pose,
                           std::vector<DrawnPart>& out) {
    const bool finger = train.layout == Layout::Finger;
    const double angle = rocker_angle(train, rigid, pose.input_m), in = train.rocker->input_arm_m,
                 o = train.rocker->output_arm_m;
    const DrawnPoint pivot{0, 0};
    const double side = finger ? 1 : -1;
    const DrawnPoint tip{o * std::cos(angle), -o * std::sin(angle)};
    const DrawnPoint input{side * in * std::cos(angle),
                           finger ? -in * std::sin(angle) : in * std::sin(angle)};
    const double reach =
        train.lobe.base_radius_m +
        (train.lobe.follower == FollowerKind::Roller ? 2 * train.lobe.follower_radius_m : 0.005);
    const double rest = in * std::sin(0.5 * rigid.lobe().lift_m() / in);
    const DrawnPoint cam{side * in, finger ? rest + reach : -rest - reach};
    std::vector<DrawnPart> cams;
    add_cam(train, rigid, pose, {0, 0}, cams);
    for (DrawnPart& part : cams)
        for (DrawnPoint& p : part.outline)
            p = {cam.x_m + p.x_m, finger ? cam.y_m - p.y_m : cam.y_m + p.y_m};
    const double tip_closed = o * std::sin(0.5 * rigid.lobe().lift_m() / in);
    add_valve(train, pose, {o, tip_closed - 0.005 - train.effective_lash_m()}, out);
    draw_rocker(input, pivot, tip, pose.tip_apart, out);
    if (train.lobe.follower == FollowerKind::Roller)
        out.push_back(
            {"lobe.follower", circle(input.x_m, input.y_m + (finger ? 1 : -1) * train.lobe.follower_radius_m,
                                     train.lobe.follower_radius_m)});
    out.insert(out.end(), cams.begin(), cams.end());
}

} // namespace

TrainPose rigid_pose(const RigidMotion& rigid, double cam_rad) {
    const double s = rigid.lobe().at(cam_rad);
    return {cam_rad, s, s, rigid.lift_m(cam_rad), false, rigid.lift_m(cam_rad) <= 0, false, {}};
}

bool rod_is_shortened(const Train& train) {
    return train.pushrod && train.pushrod->length_m > kLongestRod_m;
}

std::vector<DrawnPart> draw_train(const Train& train, const RigidMotion& rigid, const TrainPose& pose) {
    std::vector<DrawnPart> out;
    switch (train.layout) {
    case Layout::Pushrod:
        draw_pushrod(train, rigid, pose, out);
        break;
    case Layout::Rocker:
    case Layout::Finger:
        draw_rocker_or_finger(train, rigid, pose, out);
        break;
    case Layout::Bucket:
        draw_bucket(train, rigid, pose, out);
        break;
    }
    return out;
}

} // namespace bathmos
