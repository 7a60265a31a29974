// Integration of several speeds at once, one in each lane of the processor's vector registers.
//
// All lanes share the chain and its angle tables, as every speed takes the same angle steps; only the step in
// time differs. Method: classical fourth-order Runge-Kutta, equal angle steps, no event finding (physics.md
// 5, Numbers).
#pragma once

#include "core/dynamics/chain.h"
#include "core/tasks/tasks.h"

#include <cstddef>
#include <new>
#include <stop_token>
#include <vector>

namespace bathmos {

/// Memory on the boundaries that vector loads like.
template <class T>
struct VectorAllocator {
    using value_type = T;
    static constexpr std::align_val_t kAlign{64};
    VectorAllocator() = default;
    template <class U>
    VectorAllocator(const VectorAllocator<U>&) {}
    T* allocate(std::size_t n) { return static_cast<T*>(::operator new(n * sizeof(T), kAlign)); }
    void deallocate(T* at, std::size_t) { ::operator delete(at, kAlign); }
    bool operator==(const VectorAllocator&) const = default;
};

/// What is recorded at each grid point of a cycle.
enum class Channel : std::size_t {
    Lift,
    LiftRate,       ///< m/s
    CamPenetration, ///< m; 0 or less: cam and follower apart
    TipPenetration,
    LinkPenetration, ///< m; 0 or less: link apart (pushrod only, else equal to the cam's)
    CamForce,
    LinkForce,
    TipForce,
    SeatForce,
    SpringForce,
    Follower,  ///< m, position at the cam
    RockerIn,  ///< m, position at the rocker's input
    Surge,     ///< m, largest departure of a coil from its quasi-static place
    Clash,     ///< m, deepest overlap of closing coils; 0: none touch
    Extension, ///< m, of a hydraulic follower's plunger, else 0
    Pressure,  ///< Pa absolute, of the oil under it, else 0
    PowerIn,   ///< W, given by the cam and by the pressure on the head
    Loss,      ///< W, turned into heat by contacts, drags, coils, Coulomb friction and the oil
    Count
};
inline constexpr std::size_t kChannels = static_cast<std::size_t>(Channel::Count);
/// Coil positions are kept at every fourth grid point (2 crank degrees).
inline constexpr std::size_t kCoilStride = 4;
inline constexpr std::size_t kCoilPoints = kGridSteps / kCoilStride + 1;

/// Numbers kept of each dof and lane; two of them are its state between steps.
inline constexpr std::size_t kSlots = 9, kPositionSlot = 4, kVelocitySlot = 5;

/// State and last recorded cycle of all lanes. Arrays hold the lanes of one quantity side by side.
class LaneBlock {
  public:
    /// Idle lanes stay at rest.
    LaneBlock(const Chain& chain, std::size_t lanes, const RestState& rest);
    LaneBlock(const Chain& chain, std::size_t lanes) : LaneBlock(chain, lanes, rest_of(chain)) {}

    std::size_t lanes() const { return lanes_; }
    double position_m(std::size_t dof, std::size_t lane) const {
        return state[(dof * kSlots + kPositionSlot) * lanes_ + lane];
    }
    double velocity_m_per_s(std::size_t dof, std::size_t lane) const {
        return state[(dof * kSlots + kVelocitySlot) * lanes_ + lane];
    }
    /// Puts a lane at rest on the base circle at a speed.
    void start(std::size_t lane, double speed_rpm, const RestState& rest);

    double at(Channel channel, std::size_t point, std::size_t lane) const {
        return record[(static_cast<std::size_t>(channel) * kGridPoints + point) * lanes_ + lane];
    }
    double coil_m(std::size_t point, std::size_t coil, std::size_t lane) const {
        return coils[(point * coil_count_ + coil) * lanes_ + lane];
    }
    std::size_t coil_count() const { return coil_count_; }

    using Array = std::vector<double, VectorAllocator<double>>;
    Array state;             ///< dof x slot x lanes: state and what the integrator keeps of each dof
    Array step_s, cam_rad_s; ///< lanes
    Array record;            ///< channel x grid point x lanes
    Array coils;             ///< coil point x free coil x lanes
    /// Of the cycle just run, lanes: largest change of lift from the cycle before (nan if numbers ran away),
    /// deepest clash of coils.
    Array change_m, clash_m;

  private:
    std::size_t lanes_, coil_count_, steps_;
};

/// Lanes that this processor does at once.
std::size_t lane_count();

/// Name of the instruction set in use, for reports.
const char* lane_target();

/// Integrates all lanes over one cycle and records it. No allocation. Throws Stopped within some milliseconds
/// of a stop; the block is then of no further use.
void advance_cycle(const Chain& chain, LaneBlock& block, const std::stop_token& stop = {});

} // namespace bathmos
