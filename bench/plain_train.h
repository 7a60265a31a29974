// The equations of a pushrod train written a second time, plainly and only for benchmarks and checks: one
// speed, no vectors, no tables shared with the core but the lobe curve. Integrated by CVODE.
#pragma once

#include "core/train/train.h"

#include <vector>

namespace bathmos::bench {

/// State order: x, q, y, coils..., then their velocities.
class PlainTrain {
  public:
    explicit PlainTrain(const Train& train);
    std::size_t dof() const { return 3 + coils_; }
    void derivative(double cam_rad, double cam_rad_s, const double* state, double* out) const;
    std::vector<double> rest() const;
    double rigid(double cam_rad) const { return rigid_.lift_m(cam_rad); }

  private:
    struct Coil {
        std::size_t n;
        double base, k, free, solid, beta, node_mass, rub;
    };
    void lobe(double cam_rad, double* rise, double* slope) const;
    Train train_;
    RigidMotion rigid_;
    std::vector<double> rise_, slope_; // Hermite table
    std::vector<Coil> springs_;
    std::size_t coils_ = 0;
    double ml_, mq_, mv_, link_;
};

struct CvodeResult {
    std::vector<double> lift_m; ///< last cycle, every 0.5 crank degree
    int cycles = 0;
    long evaluations = 0;
};

enum class Method { Adams, Bdf };

/// Cycles at one speed by the rule of the core (3 to 24, change below 0.1 um).
CvodeResult run_cvode(const PlainTrain& train, double speed_rpm, Method method, double relative_tolerance);

} // namespace bathmos::bench
