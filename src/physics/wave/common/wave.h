// Waves: the electric field E exp(j omega t) in media and between walls,
//
//   curl (1/mu curl E) = k^2 eps E,   k = omega / c,
//
// with E in H(curl), relative eps and mu. This file: what a sheet states, and resonances. Drawings
// hold E in their plane with H across it, or E across it; round an axis also fields that turn with
// the angle (fem::EdgeKind).
// Source: Jackson, Classical Electrodynamics, 3rd ed., chapter 8 (from memory).
#pragma once

#include "fem/cholesky.h"
#include "fem/edge.h"
#include "physics/common/solution.h"
#include "physics/wave/common/wires.h"
#include "shape/partition.h"
#include "sheet/model.h"

#include <complex>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace yh::physics {

/// A wall of metal whose field reaches in by the skin depth only.
struct MetalWall
{
    int line = -1;  ///< -1: the surface of a region of metal
    std::string metal;
    double sigma = 0;      ///< S/m
    double roughness = 0;  ///< m, root mean square
    /// Surface resistance, ohm, at a frequency in Hz: sqrt(omega mu0 / (2 sigma)), and for rough
    /// walls 1 + (2/pi) atan(1.4 (roughness / skin depth)^2) times that.
    /// Source: Pozar, Microwave Engineering, section 1.7; Hammerstad and Bekkadal, 1975 (both from
    /// memory).
    [[nodiscard]] double resistance(double frequency) const;
};

/// The shell that absorbs what leaves into open space: radii run into the complex,
///   r~ = r - j g (r),   s = dr~/dr,   g = depth ((r - inner) / (outer - inner))^3,
/// which turns a wave exp(-j k r) into one that has fallen by exp(-k depth) at the outer radius.
/// In Cartesian terms the shell is a medium with eps = mu = the tensor that stretched() gives; it
/// does not depend on the frequency.
/// Source: Teixeira and Chew, IEEE Microw. Guided Wave Lett. 7 (1997) 371 (from memory).
struct AbsorbingShell
{
    bool present = false;
    bool cylinder = false;  ///< in the plane; else a sphere
    int piece = -1;
    std::vector<int> sphere;  ///< sides of the partition where it begins
    Point centre;
    double inner = 0, outer = 0, depth = 0;  ///< m
    struct Medium
    {
        fem::Tensor eps[2], inverseMu[2];  ///< real and imaginary parts
    };
    [[nodiscard]] Medium stretched(const Point& p) const;
};

/// A current element.
struct PointDipole
{
    std::string name;
    int line = -1;
    Point at, direction;  ///< m, and of length 1
    double moment = 1;    ///< A m, peak
};

/// A wave from far away: E = field polarisation exp(-j k towards . r), r from the sheet's origin.
struct PlaneWave
{
    std::string name;
    int line = -1;
    Point towards, polarisation;  ///< of length 1, across each other
    double field = 1;             ///< V/m, peak
};

/// A plane side through which a guide goes on, without end; or a gap with a source across it.
struct WavePort
{
    std::string name;
    int line = -1;
    std::vector<int> sides;     ///< of the partition
    double resistance = 0;      ///< ohm, of a lumped port (whole device); 0: a guide
    int modes = 1;              ///< how many modes of the guide count
    double shift = 0;           ///< m, how far inside the device its S-parameters refer to
    double eps = 1, mu = 1;     ///< relative, of what fills the guide
    int piece = -1;             ///< that fills it
    bool severalMedia = false;  ///< its modes change with the frequency
    double whole = 1;           ///< impedance of the whole line over that of the modelled part
    double share = 1;           ///< of the power of the whole port, what the modelled part carries
    int wireNode = -1;          ///< of a lumped port in a thin wire; -1: it has sides
    double gap = 0;             ///< m, of such a port
    double drive = 1;           ///< W, power of the wave that comes in, for which fields are shown
};

/// A film that is thin against its skin depth: H along it jumps by E along it over the resistance.
struct ResistiveSheet
{
    int line = -1;
    std::vector<int> sides;  ///< of the partition
    double resistance = 0;   ///< ohm a square; 0: that of the wave in the medium, an absorbing wall
};

/// K, at which properties are taken where nothing heats.
inline constexpr double roomTemperature = 293.15;

/// Materials, walls and symmetry of a wave problem.
struct WaveProblem
{
    fem::Measure measure = fem::Measure::plane;
    fem::EdgeKind kind;
    double scale = 1.0;                            ///< depth times the number of images
    double stored = 1e-3;                          ///< J, for which modes are shown
    std::vector<fem::Coefficient> eps, inverseMu;  ///< relative, by piece
    std::vector<double> loss;                      ///< tan delta, by piece
    std::vector<double> sigma;                     ///< S/m, by piece; of what is no metal
    /// Media that run with the frequency: relative permittivity with all losses. What stands above
    /// for them is a reference without loss.
    struct Dispersive
    {
        std::vector<int> pieces;
        /// Of the frequency in Hz and the temperature in K.
        std::function<std::complex<double>(double, double)> eps;
        double reference = 1;
        bool warms = false;  ///< depends on the temperature
    };
    [[nodiscard]] const Dispersive* dispersiveOf(int piece) const;
    std::vector<Dispersive> dispersive;
    std::vector<mesh::PeriodicPair> periodic;
    std::vector<double> phases;  ///< rad, by pair: how far the field at its second sides is behind
    bool turning = false;        ///< drives between periodic sides are complex
    /// Of a wave that comes at a slant between periodic sides: its part along the ports over that
    /// of a wave in vacuum. The field is exp(-j k slant . r) times one without phases.
    Point slant;
    [[nodiscard]] bool isSlanted() const { return norm(slant) > 0; }
    std::vector<double> steepness;  ///< of guides, by piece: (f / 2 eps) d eps / df
    std::vector<double> density;    ///< kg/m^3, by piece; 0: not known
    std::vector<int> activePieces;
    /// Whether a piece carries the wave; metal does not, and may still be meshed for its heat.
    [[nodiscard]] bool carries(int piece) const;
    enum Boundary { port = -4, open = -3, magnetic = -2, electric = -1 };
    /// By side of the partition: a kind of Boundary, or the number of its metal wall. `open` sides
    /// are electric walls where the field ends.
    std::vector<int> sides;
    std::vector<MetalWall> walls;
    std::vector<WavePort> ports;
    std::vector<ResistiveSheet> sheets;
    ThinWires wires;
    std::vector<PointDipole> dipoles;
    std::vector<PlaneWave> planeWaves;
    AbsorbingShell shell;
    /// Mirror images of the modelled part, for far fields: E(image of p) = factor (image of E(p)).
    struct Mirror
    {
        int axis = 0;
        bool odd = false;  ///< the plane is an electric wall
    };
    std::vector<Mirror> mirrors;
    int wedges = 1;
    double low = 0, high = 0;   ///< Hz, band of a driven problem
    double shown = 0;           ///< Hz, where its fields are looked at
    int points = 0;             ///< in the band
    double settled = 1e-6;      ///< how far S may be off between the frequencies solved for
    int modes = 0;              ///< how many resonances are looked for
    int guideModes = 0;         ///< how many modes of an endless guide are looked for
    int guideLine = -1;         ///< the line that says so
    double guideFrequency = 0;  ///< Hz, at which
    double bend = 0;            ///< m, radius of the guide's bend; 0: straight
    double from = 0;            ///< Hz, above which
    int asked = 1;              ///< the highest one that is asked about

    /// The imaginary parts of the absorbing shell's media, by piece.
    struct Media
    {
        std::vector<fem::Coefficient> inverseMu, eps;
    };
    [[nodiscard]] Media absorbingMedia() const;
    /// All that heats a piece over |E|^2 / 2 at a frequency in Hz, S/m.
    [[nodiscard]] double conductivity(size_t piece, double frequency,
                                      double temperature = roomTemperature) const;
    /// Relative permittivity of what fills the guide of a port.
    [[nodiscard]] double portEps(const WavePort& guide, double frequency) const;
    /// Whether a piece takes power from the wave.
    [[nodiscard]] bool takesPower(size_t piece) const;
    /// Of a drawing, m; 1 in solids.
    [[nodiscard]] double depth() const { return scale / wedges / double(1 << mirrors.size()); }
    [[nodiscard]] int portOf(const std::string& name) const;       ///< -1: none
    [[nodiscard]] int dipoleOf(const std::string& name) const;     ///< -1: none
    [[nodiscard]] int planeWaveOf(const std::string& name) const;  ///< -1: none
};

/// Reads materials, walls and what is looked for from the sheet.
/// @param[out] faults  everything that is missing or wrong, each at its line
[[nodiscard]] std::unique_ptr<WaveProblem> defineWave(const sheet::Model& model,
                                                      const shape::Partition& partition,
                                                      base::Faults& faults);

/// Sides of the mesh along which the field vanishes (taking walls of metal as without loss).
[[nodiscard]] std::vector<int> wallSides(const WaveProblem& problem, const mesh::Mesh& mesh);

/// Takes gradients out of fields. Potentials are constant on each connected set of walls, and zero
/// on the first of them; without walls, zero at one corner. Those that turn with the angle are zero
/// on all walls.
class Gradients
{
public:
    /// @param elements  of div eps grad
    /// @param walls     sides of the mesh
    /// @param ranks     of the corners, in the order of elimination
    Gradients(const fem::EdgeSpace& space, const fem::H1Space& scalar, int order,
              const fem::ElementMatrices& elements, std::span<const int> walls,
              std::span<const int> ranks);
    /// x - G (G^T M G)^-1 G^T y with y = M x; x and y by function of the edge space.
    void remove(std::vector<double>& x, const std::vector<double>& y);
    /// Fields without curl and divergence: one for each set of walls but the first, which holds
    /// the potential 1 there; by function of the edge space.
    [[nodiscard]] std::vector<std::vector<double>> betweenWalls();

private:
    /// The potential of a set of walls at 1 V, all others held; `factor` is that of the rest.
    [[nodiscard]] std::vector<double> potentialOf(const std::vector<int>& corners,
                                                  const fem::Numbering& inner,
                                                  fem::Cholesky& factor) const;
    const fem::EdgeSpace& m_space;
    const fem::H1Space& m_scalar;
    int m_order;
    std::vector<std::vector<int>> m_sets;  ///< corners of each set of walls but the first
    const fem::ElementMatrices& m_elements;
    std::vector<char> m_onWall;  ///< by scalar function
    std::vector<int> m_ranks;
    fem::Numbering m_numbering;
    fem::SparseSymmetric m_system;
    fem::Cholesky m_factor;
};

/// What resonances are looked for in, for one order.
struct ResonanceSearch
{
    const fem::EdgeSpace& space;
    const fem::H1Space& scalar;
    const fem::EdgeElements& elements;
    const fem::ElementMatrices& gradients;
    std::span<const int> walls, ranks;
    int order = 1, count = 1;
    double from = 0;     ///< 1/m^2, only values above it
    double size = 1;     ///< m, extent of the device
    bool rough = false;  ///< of an order that only serves to judge the error
    const std::vector<double>* knownValues = nullptr;               ///< of the order below
    const std::vector<std::vector<double>>* knownFields = nullptr;  ///< the same
};
struct Resonances
{
    std::vector<double> k2;                  ///< 1/m^2
    std::vector<std::vector<double>> field;  ///< integral of eps E^2 = 1, by function
};
/// Lowest eigenvalues of curl (1/mu curl E) = k^2 eps E without its null space; some more than
/// asked for where there are. Counts of time and size are added up.
[[nodiscard]] Resonances findResonances(const ResonanceSearch& search, Counters& counters,
                                        base::Progress& progress);

/// Resonances. Small losses of a closed device follow from the field without them; where the media
/// lose much, or in open space, the frequency itself is complex, and Q is its real part over twice
/// the imaginary one. Fields in open space are complex as well.
class WaveModesSolver : public Solution
{
public:
    WaveModesSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                    const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    std::string shownFor() const override;
    [[nodiscard]] std::vector<Axis> axes() const override;
    void sample(int cell, const Point& xi, double* values) const override;
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override;

    [[nodiscard]] const WaveProblem& problem() const { return m_problem; }
    [[nodiscard]] int modeCount() const { return int(m_solved.back().k2.size()); }
    /// Resonant frequency, Hz. Modes count from 0.
    [[nodiscard]] double frequency(int order, int mode) const;
    /// Parts of 1/Q by walls, by media, and by what leaves into open space.
    struct Losses
    {
        double walls = 0, media = 0, radiation = 0;
        [[nodiscard]] double whole() const { return walls + media + radiation; }
    };
    [[nodiscard]] Losses losses(int order, int mode) const;
    /// V^2 / (2 omega W) along a straight line, ohm, with V the peak voltage and W the stored
    /// energy; what the field changes during a particle's flight does not count.
    [[nodiscard]] double rOverQ(int order, int mode, const Point& a, const Point& b) const;

private:
    struct Solved
    {
        int order = 0;
        std::vector<double> k2;                  ///< 1/m^2, rising in the highest order
        std::vector<std::vector<double>> field;  ///< integral of eps E^2 = 1; shape (modes, count)
        /// Integrals of |n x curl E / mu|^2 over each metal wall; shape (modes, walls) where known
        mutable std::vector<std::vector<double>> currents;
        /// k^2 with the loss of media, where that is not small; 1/m^2
        std::vector<std::complex<double>> lossy;
        /// In open space the imaginary parts of the fields, which are turned so that the integral
        /// of eps E . E is real.
        std::vector<std::vector<double>> imaginary;
    };
    /// The functions that are solved for.
    [[nodiscard]] std::vector<char> freeFunctions(int order) const;
    /// Eigenvalues near those of the fields without loss, by inverse iteration with the complex
    /// matrices.
    [[nodiscard]] std::vector<std::complex<double>> lossyValues(const Solved& s);
    /// The resonances of a closed device at an order.
    Solved closedResonances(int p, base::Progress& progress);
    /// Perturbation errs by the square of 1/Q: losses that are not small are solved for.
    void solveLossy();
    /// Resonances in open space, those above the frequency that the problem states.
    /// @param known  of the order below, if any
    [[nodiscard]] Solved openResonances(int order, const Solved* known, base::Progress& progress);
    /// Resonances between periodic sides, the same.
    [[nodiscard]] Solved periodicResonances(int order, const Solved* known,
                                            base::Progress& progress);
    /// Brings complex fields of lower orders into the order and phase of the highest.
    void followComplex();
    /// The best mixture of complex fields of the order below, taken off a mode.
    [[nodiscard]] Solved restOf(int mode) const;
    /// Energies eps |E|^2 by cell, outside of the shell.
    [[nodiscard]] std::vector<double> energies(const Solved& s, int mode) const;
    [[nodiscard]] double mediaLoss(const Solved& s, int mode, double frequency) const;
    [[nodiscard]] const Solved& at(int order) const;
    void follow();
    [[nodiscard]] const std::vector<double>& wallCurrents(const Solved& s, int mode) const;
    [[nodiscard]] std::vector<double> currentsByResidual(const Solved& s, int mode) const;
    [[nodiscard]] std::vector<double> currentsByField(const Solved& s, int mode) const;
    [[nodiscard]] int wallOf(int side) const
    {
        const int tag = m_mesh.sideTag[size_t(side)];
        return tag < 0 ? -1 : m_problem.sides[size_t(tag)];
    }
    [[nodiscard]] std::vector<double> geometryShares(int mode) const;

    const WaveProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::EdgeSpace m_space;
    fem::H1Space m_scalar;
    fem::EdgeElements m_elements, m_absorbing;
    fem::ElementMatrices m_gradients;  ///< of div eps grad
    std::vector<Solved> m_solved;
    std::vector<Quantity> m_quantities;
    mesh::Locator m_locator;
    std::vector<int> m_ranks;  ///< of the corners, in the order of elimination
    std::vector<int> m_walls;  ///< sides of the mesh along which E vanishes
    Counters m_counters;
};

}  // namespace yh::physics
