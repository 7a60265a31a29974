// The equations of a train written a second time, plainly and only for tests and benchmarks: one speed, no
// vectors, nothing shared with the core's dynamics but the curves of lobe, ratio table and load table.
// Integrated by CVODE.
#pragma once

#include "core/train/train.h"

#include <cstddef>
#include <vector>

namespace bathmos::independent {

/// State order: moving parts' positions, then their velocities, then the oil's absolute pressure, if any.
/// Parts: drive (pushrod: x, q; with oil: body, plunger, q; bucket with oil: body, plunger; adjuster: a, u;
/// else one), valve (or its stem end), coils; the camshaft's twist in rad, the valve's head.
class PlainTrain {
  public:
    explicit PlainTrain(const Train& train);
    std::size_t parts() const { return mass_.size(); }
    std::size_t size() const { return 2 * parts() + (oil_ ? 1 : 0); }
    /// What a sensor sees: the valve, or its head.
    std::size_t sensed() const { return head_ ? head_ : valve_; }
    bool oil() const { return oil_; }
    void derivative(double cam_rad, double cam_rad_s, const double* state, double* out) const;
    const std::vector<double>& rest() const { return rest_; }
    double extension(const double* state) const;

  private:
    struct Segment {
        double k, free, mass, solid, beta;
    };
    struct Coil {
        std::vector<Segment> segments;
        double base, coulomb;
        const LoadTable* table = nullptr;
        CubicCurve curve;
        std::size_t first; ///< part number of its lowest free coil
    };
    void add_options();
    void add_spring(const Spring& spring);
    std::vector<double> settle() const;
    double spring_force(const Coil& coil, const double* p, const double* v, double* force) const;
    double drive(const double* p, const double* v, double pressure, double rise, double rate,
                 const double* tip, double* force, double* pressure_rate) const;
    double travel(double q) const { return map_.travel(q); }
    double slope(double q) const { return map_.ratio(q); }
    void lobe(double cam_rad, double* rise, double* slope) const;

    Train train_;
    RockerMap map_;
    std::vector<double> rise_, rise_slope_; // Hermite table
    std::vector<Coil> springs_;
    std::vector<double> mass_, rest_;
    std::size_t valve_ = 0, rocker_ = 0, twist_ = 0, head_ = 0;
    double lash_ = 0, stem_damping_ = 0;
    bool oil_ = false;
    double link_ = 0, tip_ = 0, start_difference_ = 0;
};

struct CvodeResult {
    std::vector<double> lift_m;                ///< last cycle, every 0.5 crank degree
    std::vector<std::vector<double>> cycles_m; ///< the last eight
    int cycles = 0;
    bool periodic = false;
    long evaluations = 0;
};

enum class Method { Adams, Bdf };

/// Cycles at one speed by the rule of physics.md 5, or a fixed number of them.
CvodeResult run_cvode(const PlainTrain& train, double speed_rpm, Method method, double relative_tolerance,
                      int fixed_cycles = 0);

} // namespace bathmos::independent
