#include "core/dynamics/chamber.h"

#include "core/units/units.h"

#include <cmath>

namespace bathmos {

Chamber chamber_of(const HydraulicFollower& f) {
    Chamber out;
    out.area_m2 = kPi / 4 * f.plunger_diameter_m * f.plunger_diameter_m;
    out.least_volume_m3 = f.chamber_volume_m3;
    out.oil_per_Pa = 1 / f.bulk_modulus_Pa;
    out.air_Pa = f.air_fraction * kAmbient_Pa;
    out.supply_Pa = f.supply_Pa + kAmbient_Pa;
    out.flow_m3_per_s = kCheckDischarge * f.check_area_m2 * std::sqrt(2 / f.oil_density_kg_m3);
    out.leak_m3_per_s_per_Pa = f.leak_m3_per_s_per_Pa;
    out.spring_N = f.plunger_spring_N;
    out.travel_m = f.travel_m;
    out.start_m = f.travel_m - f.preload_m;
    return out;
}

} // namespace bathmos
