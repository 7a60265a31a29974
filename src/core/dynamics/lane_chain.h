// Chains of one form with numbers of their own, each in a lane of its own: what the laws need of them.
#pragma once

#include "core/dynamics/chain.h"

#include <cstddef>
#include <memory>
#include <vector>

namespace bathmos {

/// Lanes of single precision in the widest registers known.
inline constexpr std::size_t kMostLiftLanes = 16;

/// One number of each lane's chain.
struct alignas(64) PerLane {
    float of[kMostLiftLanes];
};

/// Trains that can share lanes: the same parts in the same steps on the same cam, whatever their numbers.
/// Rocker and tabled springs must be the same in full.
bool of_one_form(const Chain& a, const Chain& b);

/// Members are named, and mean, as those of Chain.
struct LaneChain {
    struct Contact {
        PerLane stiffness_N_per_m, damping_s_per_m;
    };
    struct Row {
        PerLane stiffness_N_per_m, free_N, damping_N_s_per_m, share, coil_per_mass, coil_rub_per_mass;
    };
    struct Line {
        double start, per_bin;
        int bins;
        std::vector<float> value_slope;
    };
    struct Cubic {
        double start, per_bin;
        std::vector<float> c[4];
        int bins;
    };
    struct Spring {
        struct Segments {
            PerLane damping_s, solid_m, base_m;
            bool from_table;
        } segments;
        std::vector<Row> rows;
        bool even;
        Line table;
        std::size_t first_dof;
        PerLane rub_per_coil_N;
        bool rubs() const { return rubs_; }
        bool rubs_;
    };
    struct Oil {
        PerLane area_m2, least_volume_m3, oil_per_Pa, air_Pa, supply_Pa, flow_m3_per_s, leak_m3_per_s_per_Pa,
            spring_N, travel_m, offset_m;
    };

    /// All lanes hold the numbers of this chain.
    explicit LaneChain(const Chain& all);
    /// Puts another chain of the form into a lane, and what its drive's ripple does beyond the chain's table:
    /// to the third order of the angle, on a twisting camshaft only; the pressure on the head keeps its
    /// angle.
    void put(std::size_t lane, const Chain& chain, const DriveRipple& ripple = {});

    Layout layout;
    std::size_t valve_dof, rocker_dof, twist_dof, head_dof, substeps;
    std::shared_ptr<const CamTable> cam_table;
    std::vector<PerLane> per_mass;
    Contact cam, tip, seat;
    PerLane link_stiffness_N_per_m, link_damping_s;
    Oil chamber;
    PerLane follower_viscous_N_s_per_m, rocker_viscous_N_s_per_m, valve_viscous_N_s_per_m, coulomb_N;
    PerLane ratio;
    Cubic ratio_table;
    PerLane ripple_second_cos, ripple_second_sin, ripple_third_cos, ripple_third_sin;
    bool ripples = false; ///< in any lane, now or before
    PerLane lash_m, height_m, twist_N_m_per_rad, twist_damping_N_m_s, stem_N_per_m, stem_damping_N_s_per_m;
    std::vector<Spring> springs;

    bool rubs_in_guide() const { return rubs_in_guide_; }

  private:
    bool rubs_in_guide_;
};

} // namespace bathmos
