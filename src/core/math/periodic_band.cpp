#include "core/math/periodic_band.h"

#include "core/problem/input_error.h"

#include <Eigen/Dense>
#include <algorithm>

namespace bathmos {

namespace {

[[noreturn]] void not_definite() {
    throw InputError({"", "lobe.table", "the readings do not determine a curve",
                      "give readings all round the lobe, without gaps of many degrees in its event"});
}

} // namespace

double PeriodicBand::form(std::size_t first, const double* x, std::size_t count) const {
    double sum = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const auto& row = band_[(first + i) % band_.size()];
        sum += row[0] * x[i] * x[i];
        for (std::size_t k = 1; i + k < count; ++k)
            sum += 2 * row[k] * x[i] * x[i + k];
    }
    return sum;
}

PeriodicBandFactor::PeriodicBandFactor(const PeriodicBand& matrix)
    : chain_(matrix.size() - kR), band_(chain_) {
    const std::size_t n = matrix.size();
    for (std::size_t i = 0; i < chain_; ++i)
        for (std::size_t k = 0; k <= kR && i + k < chain_; ++k)
            band_[i][k] = matrix.at(i, k);
    // L D L^T in place
    for (std::size_t i = 0; i < chain_; ++i) {
        const double pivot = band_[i][0];
        if (!(pivot > 0))
            not_definite();
        const std::size_t reach = std::min(kR, chain_ - 1 - i);
        for (std::size_t k = 1; k <= reach; ++k) {
            const double factor = band_[i][k] / pivot;
            for (std::size_t m = k; m <= reach; ++m)
                band_[i + k][m - k] -= factor * band_[i][m];
        }
        for (std::size_t k = 1; k <= reach; ++k)
            band_[i][k] /= pivot;
    }
    for (std::size_t c = 0; c < kR; ++c) {
        columns_[c].assign(chain_, 0);
        const std::size_t row = chain_ + c;
        for (std::size_t k = 1; k <= kR; ++k) {
            if (const std::size_t next = (row + k) % n; next < chain_)
                columns_[c][next] += matrix.at(row, k);
            if (const std::size_t back = row - k; back < chain_)
                columns_[c][back] += matrix.at(back, k);
        }
        across_[c] = columns_[c];
        chain_solve(across_[c]);
    }
    Eigen::Matrix<double, kR, kR> schur;
    for (std::size_t a = 0; a < kR; ++a)
        for (std::size_t b = a; b < kR; ++b) {
            double sum = matrix.at(chain_ + a, b - a);
            for (std::size_t i = 0; i < chain_; ++i)
                sum -= columns_[a][i] * across_[b][i];
            schur(static_cast<int>(a), static_cast<int>(b)) =
                schur(static_cast<int>(b), static_cast<int>(a)) = sum;
        }
    const Eigen::LLT<Eigen::Matrix<double, kR, kR>> factor(schur);
    if (factor.info() != Eigen::Success)
        not_definite();
    const Eigen::Matrix<double, kR, kR> inverse = factor.solve(Eigen::Matrix<double, kR, kR>::Identity());
    for (std::size_t a = 0; a < kR; ++a)
        for (std::size_t b = 0; b < kR; ++b)
            schur_inverse_[a][b] = inverse(static_cast<int>(a), static_cast<int>(b));
}

void PeriodicBandFactor::chain_solve(std::vector<double>& b) const {
    for (std::size_t i = 0; i < chain_; ++i)
        for (std::size_t k = 1; k <= kR && i + k < chain_; ++k)
            b[i + k] -= band_[i][k] * b[i];
    for (std::size_t i = chain_; i-- > 0;) {
        b[i] /= band_[i][0];
        for (std::size_t k = 1; k <= kR && i + k < chain_; ++k)
            b[i] -= band_[i][k] * b[i + k];
    }
}

std::vector<double> PeriodicBandFactor::solve(const std::vector<double>& b) const {
    std::vector<double> x(b.begin(), b.begin() + static_cast<std::ptrdiff_t>(chain_));
    std::array<double, kR> rest{}, last{};
    for (std::size_t a = 0; a < kR; ++a) {
        rest[a] = b[chain_ + a];
        for (std::size_t i = 0; i < chain_; ++i)
            rest[a] -= across_[a][i] * x[i];
    }
    chain_solve(x);
    for (std::size_t a = 0; a < kR; ++a)
        for (std::size_t c = 0; c < kR; ++c)
            last[a] += schur_inverse_[a][c] * rest[c];
    for (std::size_t i = 0; i < chain_; ++i)
        for (std::size_t a = 0; a < kR; ++a)
            x[i] -= across_[a][i] * last[a];
    x.insert(x.end(), last.begin(), last.end());
    return x;
}

PeriodicBand PeriodicBandFactor::inverse_band() const {
    const std::size_t n = chain_ + kR;
    PeriodicBand out(n);
    for (std::size_t i = chain_; i-- > 0;) {
        const std::size_t reach = std::min(kR, chain_ - 1 - i);
        for (std::size_t k = reach + 1; k-- > 0;) {
            double sum = k == 0 ? 1 / band_[i][0] : 0;
            for (std::size_t m = 1; m <= reach; ++m)
                sum -= band_[i][m] * (m <= k ? out.at(i + m, k - m) : out.at(i + k, m - k));
            out.at(i, k) = sum;
        }
    }
    // Back into the ring: inverse_CC += X S X', inverse_CS = -X S, inverse_SS = S.
    std::vector<std::array<double, kR>> weighted(chain_); // X S
    for (std::size_t i = 0; i < chain_; ++i)
        for (std::size_t a = 0; a < kR; ++a) {
            weighted[i][a] = 0;
            for (std::size_t c = 0; c < kR; ++c)
                weighted[i][a] += across_[c][i] * schur_inverse_[c][a];
        }
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t k = 0; k <= kR; ++k) {
            const std::size_t j = (i + k) % n;
            if (i < chain_ && j < chain_ && j >= i) {
                for (std::size_t a = 0; a < kR; ++a)
                    out.at(i, k) += weighted[i][a] * across_[a][j];
            } else if (i >= chain_ && j >= chain_) {
                out.at(i, k) = schur_inverse_[i - chain_][j - chain_];
            } else {
                const std::size_t inside = std::min(i, j), taken = std::max(i, j) - chain_;
                out.at(i, k) = -weighted[inside][taken];
            }
        }
    return out;
}

} // namespace bathmos
