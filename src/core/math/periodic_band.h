// A symmetric positive definite matrix whose entries stand near the diagonal, round a ring: what a periodic
// spline's least squares come to.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

namespace bathmos {

/// Entries (i, i + k) for k = 0..kReach, indices round the ring. Value type.
class PeriodicBand {
  public:
    static constexpr std::size_t kReach = 5;

    /// All zero; `size` at least 4 kReach.
    explicit PeriodicBand(std::size_t size) : band_(size) {}
    std::size_t size() const { return band_.size(); }
    /// Entry (i, i + k), i + k round the ring; k up to kReach.
    double& at(std::size_t i, std::size_t k) { return band_[i][k]; }
    double at(std::size_t i, std::size_t k) const { return band_[i][k]; }

    /// x' A x over the given coefficients, `first` .. first + count - 1 round the ring; count up to kReach+1.
    double form(std::size_t first, const double* x, std::size_t count) const;

  private:
    std::vector<std::array<double, kReach + 1>> band_;
};

/// The factors of a PeriodicBand: the ring is cut by taking kReach rows out, the rest is a plain band.
class PeriodicBandFactor {
  public:
    /// Throws InputError (location "lobe.table") when the matrix is not positive definite.
    explicit PeriodicBandFactor(const PeriodicBand& matrix);

    /// x of A x = b.
    std::vector<double> solve(const std::vector<double>& b) const;

    /// The entries of the inverse that stand within the band (Takahashi's recursion for the chain, the
    /// ring's rest by its Schur complement).
    PeriodicBand inverse_band() const;

  private:
    static constexpr std::size_t kR = PeriodicBand::kReach;
    void chain_solve(std::vector<double>& b) const;

    std::size_t chain_ = 0;                        ///< rows of the cut ring
    std::vector<std::array<double, kR + 1>> band_; ///< [i][0] pivot, [i][k] factor of row i + k on row i
    std::array<std::vector<double>, kR> across_;   ///< chain^-1 times the columns of the rows taken out
    std::array<std::vector<double>, kR> columns_;  ///< those columns themselves
    std::array<std::array<double, kR>, kR> schur_inverse_{};
};

} // namespace bathmos
