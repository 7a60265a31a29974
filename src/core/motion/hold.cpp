#include "core/motion/hold.h"

#include "core/problem/input_error.h"

#include <algorithm>
#include <cmath>
#include <deque>

namespace bathmos {

namespace {

constexpr std::size_t kCloud = 8;

Motion motion_of(const LaneBlock& block, double speed_rpm) {
    Motion m;
    m.speed_rpm = speed_rpm;
    for (std::size_t c = 0; c < kChannels; ++c)
        for (std::size_t i = 0; i < kGridPoints; ++i)
            m.channel[c].push_back(block.at(static_cast<Channel>(c), i, 0));
    m.coil_count = block.coil_count();
    for (std::size_t p = 0; p < kCoilPoints; ++p)
        for (std::size_t i = 0; i < m.coil_count; ++i)
            m.coils_m.push_back(static_cast<float>(block.coil_m(p, i, 0)));
    return m;
}

double largest(const std::vector<double>& channel) {
    return *std::max_element(channel.begin(), channel.end());
}

} // namespace

Hold hold(const Train& train, double speed_rpm, double seconds, const ProgressSink& progress,
          const std::stop_token& stop) {
    const RigidMotion rigid(train, curve_of(train.lobe));
    const std::size_t substeps = 2 * substeps_for(chain_of(train, rigid), speed_rpm); // coils may clash
    const Chain chain = chain_of(train, rigid, substeps);
    LaneBlock block(chain, lane_count());
    block.start(0, speed_rpm, rest_of(chain));
    const double cycle_s = 120 / speed_rpm;
    const auto cycles = static_cast<std::size_t>(std::max(1.0, std::round(seconds / cycle_s)));
    Hold out;
    out.speed_rpm = speed_rpm;
    std::deque<std::vector<double>> cloud;
    for (std::size_t i = 1; i <= cycles; ++i) {
        advance_cycle(chain, block, stop);
        if (!std::isfinite(block.change_m[0]))
            throw InputError({"", stiffest_part(chain).part, "the numbers ran away during the hold",
                              "check its mass, and the stiffness and damping beside it"});
        out.last = motion_of(block, speed_rpm);
        HoldPoint point;
        point.time_s = static_cast<double>(i) * cycle_s;
        point.metrics = metrics_of(out.last, chain.rigid_m);
        point.peak_m = largest(out.last[Channel::Lift]);
        point.seat_load_N = out.last[Channel::SpringForce].back();
        point.open_load_N = largest(out.last[Channel::SpringForce]);
        point.cam_N = largest(out.last[Channel::CamForce]);
        point.extension_m = out.last[Channel::Extension].back();
        out.points.push_back(point);
        cloud.push_back(out.last[Channel::Lift]);
        if (cloud.size() > kCloud)
            cloud.pop_front();
        if (progress)
            progress(static_cast<double>(i) / static_cast<double>(cycles));
    }
    out.last.cycles = cycles;
    out.last.last_change_m = block.change_m[0];
    out.last.periodic = cycles > 1 && block.change_m[0] < CycleRule{}.periodic_m;
    out.last.metrics = out.points.back().metrics;
    out.last.cloud_m.assign(cloud.begin(), cloud.end());
    out.last.metrics[Metric::CycleVariation] = cycle_variation_m(out.last.cloud_m);
    return out;
}

} // namespace bathmos
