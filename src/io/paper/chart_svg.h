// A chart as SVG: no colour is needed to read it, and the same values make the same bytes.
#pragma once

#include "core/paper/paper.h"

namespace bathmos::io {

inline constexpr int kChartWidth = 680, kChartHeight = 330; ///< its units are about a point on paper

/// An <svg> element. Its parts are those of SVG Tiny 1.2, which Qt draws too.
std::string chart_svg(const paper::Chart& chart);

} // namespace bathmos::io
