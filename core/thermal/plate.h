#pragma once

namespace ustor {

/// A thin plate that spreads heat: the closed forms a board is compared with. SI units throughout.
struct Plate {
    double conductivity_w_mk = 20;   ///< effective, in plane
    double heatCapacity_j_m3k = 2e6; ///< volumetric
    double thickness_m = 1.6e-3;
    double lossPerFace_w_m2k = 0; ///< to air, each face

    double diffusivity_m2_s() const { return conductivity_w_mk / heatCapacity_j_m3k; }
    /// Lambda = sqrt(k d / 2 h); infinite without loss.
    double lossLength_m() const;
};

/// Rise in K at distance r after a continuous line source of q watts burnt for t seconds, no loss:
/// dT = q / (4 pi k d) E1(r^2 / 4 alpha t). Carslaw and Jaeger, Conduction of Heat in Solids, 2nd ed., 10.4.
double lineSourceRise_k(const Plate& plate, double watts, double distance_m, double seconds);

/// Steady rise with loss to air: dT = q / (2 pi k d) K0(r / Lambda).
double steadyRise_k(const Plate& plate, double watts, double distance_m);

} // namespace ustor
