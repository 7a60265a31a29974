#include "core/motion/motion_pose.h"

#include "core/units/units.h"

#include <algorithm>
#include <cmath>

namespace bathmos {

namespace {

double further(double rigid, double computed, double exaggeration) {
    return rigid + exaggeration * (computed - rigid);
}

// Places of a spring's nodes at rest for a valve lift, from the dead coils to the retainer.
std::vector<double> at_rest(const Train& train, const SpringSegments& s, double lift_m) {
    const double height = train.installed_height_m - lift_m;
    std::vector<double> out = {s.base_m};
    if (s.from_table) {
        for (int j = 1; j <= s.count; ++j)
            out.push_back(s.base_m + (height - s.base_m) * j / s.count);
        return out;
    }
    for (double length : balance_of(s, height).length_m)
        out.push_back(out.back() + length);
    return out;
}

TrainPose::Coils coils_of(const Train& train, const SpringSegments& s, const Motion& m, std::size_t first,
                          double crank_deg, double drawn_lift_m, double exaggeration) {
    const auto point = static_cast<std::size_t>(
        std::clamp(std::lround((crank_deg + 360) / (kGridStep_crank_deg * kCoilStride)), 0L,
                   static_cast<long>(kCoilPoints) - 1));
    const double lift = m[Channel::Lift][std::min(point * kCoilStride, kGridPoints - 1)];
    const std::vector<double> rest = at_rest(train, s, lift), drawn_rest = at_rest(train, s, drawn_lift_m);
    TrainPose::Coils out;
    double below = s.base_m;
    for (std::size_t j = 0; j <= static_cast<std::size_t>(s.count); ++j) {
        const bool end = j == 0 || j == static_cast<std::size_t>(s.count);
        const double z = end ? rest[j] : static_cast<double>(m.coil_m(point, first + j - 1));
        out.node_m.push_back(drawn_rest[j] + exaggeration * (z - rest[j]));
        if (j > 0)
            out.closed.push_back(z - below < s.solid_m);
        below = z;
    }
    return out;
}

} // namespace

TrainPose motion_pose(const Train& train, const RigidMotion& rigid, const Motion& m, double crank_deg,
                      double exaggeration) {
    TrainPose pose = rigid_pose(rigid, radians(crank_deg / 2));
    pose.follower_m = further(pose.follower_m, channel_at(m[Channel::Follower], crank_deg), exaggeration);
    pose.input_m = further(pose.input_m, channel_at(m[Channel::RockerIn], crank_deg), exaggeration);
    pose.lift_m = further(pose.lift_m, channel_at(m[Channel::Lift], crank_deg), exaggeration);
    pose.cam_apart = channel_at(m[Channel::CamPenetration], crank_deg) <= 0;
    pose.tip_apart = channel_at(m[Channel::TipPenetration], crank_deg) <= 0;
    pose.link_apart = train.pushrod && channel_at(m[Channel::LinkForce], crank_deg) <= 0;
    std::size_t first = 0;
    for (const Spring& spring : train.springs) {
        const SpringSegments s = segments_of(spring, train.installed_height_m, rigid.peak_m());
        if (first + static_cast<std::size_t>(s.count) - 1 > m.coil_count)
            break; // a motion of another train
        pose.coils.push_back(coils_of(train, s, m, first, crank_deg, pose.lift_m, exaggeration));
        first += static_cast<std::size_t>(s.count) - 1;
    }
    return pose;
}

} // namespace bathmos
