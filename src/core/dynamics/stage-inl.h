// The four stages of a Runge-Kutta step, woven into the laws: a law hands each acceleration to Put, which at
// once makes the state that the next stage looks at.
// Included by lanes.cpp and lift_lanes.cpp once per instruction set.
#if defined(BATHMOS_STAGE_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHMOS_STAGE_INL_H
#undef BATHMOS_STAGE_INL_H
#else
#define BATHMOS_STAGE_INL_H
#endif

#include "core/dynamics/vector-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathmos {
namespace HWY_NAMESPACE {
inline namespace BATHMOS_PRECISION {

// What the four stages keep of one dof, side by side: the state at the start of the step, the states in
// between (a and b take turns; b also holds the state between steps), and the slopes seen.
enum Slot : size_t { kNowP, kNowV, kAP, kAV, kBP, kBV, kK1, kK2, kK3 };
static_assert(kK3 + 1 == kSlots && kBP == kPositionSlot && kBV == kVelocitySlot);

struct StepTime {
    V h, half_h, sixth_h, sixth_h2, cam_rad_s;
};

// Classical fourth-order Runge-Kutta for p'' = f(p, p'), where the positions' own slopes are the velocities:
//   p + h v + h^2/6 (k1 + k2 + k3),   v + h/6 (k1 + 2 k2 + 2 k3 + k4)
template <int kStage>
struct Stage {
    Real* state; // dof x slot x lanes
    const StepTime& t;

    static HWY_INLINE size_t Stride() { return kSlots * hn::Lanes(D()); }
    static HWY_INLINE V Get(const Real* dof, Slot slot) { return Load(dof + slot * hn::Lanes(D())); }
    static HWY_INLINE void Set(V v, Real* dof, Slot slot) { Store(v, dof + slot * hn::Lanes(D())); }

    HWY_INLINE Real* At(size_t dof) const { return state + dof * Stride(); }
    static HWY_INLINE V P(const Real* dof) { return Get(dof, kStage % 2 == 1 ? kBP : kAP); }
    static HWY_INLINE V Vel(const Real* dof) { return Get(dof, kStage % 2 == 1 ? kBV : kAV); }
    HWY_INLINE V p(size_t dof) const { return P(At(dof)); }
    HWY_INLINE V v(size_t dof) const { return Vel(At(dof)); }
    // Time to the state that this stage makes.
    HWY_INLINE V Ahead() const { return kStage == 3 || kStage == 4 ? t.h : t.half_h; }

    // Takes the acceleration k of a dof whose velocity at this stage is v. Writes nothing that this stage
    // reads, so that a law may be run again.
    static HWY_INLINE void Put(Real* dof, V v, V k, V ahead, V sixth_h, V sixth_h2) {
        if constexpr (kStage == 4) {
            const V k2 = Get(dof, kK2), k3 = Get(dof, kK3), v0 = Get(dof, kNowV);
            const V both = hn::Add(k2, k3), three = hn::Add(Get(dof, kK1), both);
            Set(hn::MulAdd(sixth_h2, three, hn::MulAdd(ahead, v0, Get(dof, kNowP))), dof, kBP);
            Set(hn::MulAdd(sixth_h, hn::Add(hn::Add(three, both), k), v0), dof, kBV);
        } else {
            const V p0 = kStage == 1 ? Get(dof, kBP) : Get(dof, kNowP);
            const V v0 = kStage == 1 ? v : Get(dof, kNowV);
            if constexpr (kStage == 1) {
                Set(p0, dof, kNowP);
                Set(v0, dof, kNowV);
            }
            Set(k, dof, kStage == 1 ? kK1 : kStage == 2 ? kK2 : kK3);
            Set(hn::MulAdd(ahead, v, p0), dof, kStage == 2 ? kBP : kAP);
            Set(hn::MulAdd(ahead, k, v0), dof, kStage == 2 ? kBV : kAV);
        }
    }
    HWY_INLINE void Put(size_t dof, V v, V k) const { Put(At(dof), v, k, Ahead(), t.sixth_h, t.sixth_h2); }
};

} // namespace BATHMOS_PRECISION
} // namespace HWY_NAMESPACE
} // namespace bathmos
HWY_AFTER_NAMESPACE();

#endif
