// Waves driven through ports: S-parameters over a band.
//
// With the tangential H on the ports as given, sum of I_m h_m, the field is
//   E = j omega mu0 sum I_m A^-1 u_m,   A = K - k^2 M + losses,   u_m(i) = integral of e_m . f_i,
// and the voltages of the modes are V = Z I with Z = j omega mu0 U^T A^-1 U. Termination of the
// ports by their own guides gives S = (z - 1) / (z + 1), z = Z over the wave impedances. Modes that
// a port does not list see a magnetic wall there.
//
// Walls of metal: with x_w the field along them and S its products there, the rows of the walls say
//   A_w x + Y S x_w = j omega mu0 u_w I,   Y = j omega mu0 / Z_s,   Z_s = (1 + j) R_s.
// Y is so large that A_ww beside it does not count (their ratio is that of skin depth and cell):
// x_w is eliminated, and the fields of ideal walls serve as basis, all real. Metal with field on
// both sides has such rows for either of them, each from the cells on its side.
//
// Open space ends in an absorbing shell, whose matrices have imaginary parts of their own. A point
// dipole drives with u(i) = f_i at its place and a given current.
//
// A plane wave drives with its load b (plane_wave.h), which changes with the frequency; that of a
// few frequencies of the band serves all others, since it runs as smoothly as exp(-j k r).
//
// Between periodic sides (periodic.h) the unknowns are the parts of complex numbers. Let i be the
// unit of those and j that of the time: X = c + i s solves the system of both, and what is meant is
// c + j s. Every drive b comes with i b, whose solution is i X; so V = V_b + j V_ib, and
// (X_b - j X_ib) / sqrt(2) has the powers of the field meant.
//
// Over the band A is a sum of fixed matrices with simple functions of the frequency. A small model
// holds its solutions at a few frequencies and, by projection, those between them.
// Source: Pozar, Microwave Engineering, chapter 4; de la Rubia, Razafison and Maday, IEEE Trans.
// Microw. Theory Tech. 57 (2009) 2923 for the projection (both from memory).
#pragma once

#include "fem/edge_multilevel.h"
#include "physics/wave/common/periodic.h"
#include "physics/wave/common/plane_wave.h"
#include "physics/wave/common/ports.h"
#include "physics/wave/common/scattering.h"

#include <Eigen/Core>

#include <complex>

namespace yh::physics {

class WaveDrivenSolver : public Solution, public Scattering
{
public:
    WaveDrivenSolver(const WaveProblem& problem, const mesh::Mesh& mesh,
                     const shape::Partition& partition, int order, base::Progress& progress);
    void solve(int lowestOrder, base::Progress& progress) override;
    /// The highest order in the middle of the band alone, and what the next one changes in S there.
    std::optional<double> scout(base::Progress& progress) override;
    /// Solves the highest order at the frequency shown alone: only its snapshot is of use then.
    void solveShown(base::Progress& progress);
    const mesh::Mesh& mesh() const override { return m_mesh; }
    int order() const override { return m_space.order(); }
    Counters counters() const override { return m_counters; }
    const std::vector<Quantity>& quantities() const override { return m_quantities; }
    std::string shownFor() const override;
    void sample(int cell, const Point& xi, double* values) const override;
    /// Gives media that depend on the temperature the one that they have, K, by cell and reference
    /// coordinates; holds for the next solution.
    void warm(std::function<double(int, const Point&)> temperature);
    /// The fields at the frequency shown, with the temperatures that belong to them.
    using Shown = std::array<std::vector<double>, 2>;
    struct Snapshot
    {
        int lowest = 1;
        std::vector<Shown> fields;  ///< by order
        std::function<double(int, const Point&)> temperature;
    };
    [[nodiscard]] Snapshot snapshot() const;
    /// Power by volume that the medium takes from these fields, W/m^3.
    [[nodiscard]] double lossOf(const Snapshot& s, int order, int cell, const Point& xi) const;
    /// Power by area that a wall of metal takes, W/m^2.
    /// @param cell  that carries the wave, beside it
    [[nodiscard]] double wallLossOf(const Snapshot& s, int order, int wall, int cell,
                                    const Point& xi) const;
    /// The same by walls at the surfaces of pieces of metal, W, of the modelled part.
    [[nodiscard]] double wallLoss(const Snapshot& s, int order,
                                  const std::vector<int>& pieces) const;
    int nextOrder() const override { return m_next ? order() + 1 : 0; }
    bool isDefinite() const override { return false; }
    /// The order whose figures are best known.
    [[nodiscard]] int best() const override { return m_next ? nextOrder() : order(); }
    std::vector<double> indicator(bool allDrives) const override;
    std::vector<double> dualIndicator(const LocalFunctional&) override { return indicator(false); }
    double geometryError() const override;
    std::vector<SingularCorner> singularCorners() const override { return {}; }

    [[nodiscard]] const WaveProblem& problem() const override { return m_problem; }
    [[nodiscard]] const std::vector<Channel>& channels() const override { return m_channels; }
    [[nodiscard]] const PortMode& mode(int order, int channel) const;
    [[nodiscard]] Eigen::MatrixXcd scattering(int order, double frequency) const override;
    [[nodiscard]] double impedance(int order, size_t channel, double frequency) const override;
    [[nodiscard]] double cutoff(size_t channel, double frequency) const override;
    /// Share of the power into a channel that is lost inside, by its parts.
    struct Balance
    {
        double reflected = 0, passed = 0, media = 0, walls = 0, radiated = 0;
        [[nodiscard]] double gap() const
        {
            return 1 - reflected - passed - media - walls - radiated;
        }
    };
    /// Drives are channels, behind them dipoles, and behind those plane waves.
    /// @param drive  no plane wave
    [[nodiscard]] Balance balance(int order, double frequency, int drive) const;
    /// Power that drive number `drive` gives to the device, and what leaves it into open space, W,
    /// of the whole device: what a port is driven with as a whole, and as much for each of its
    /// images.
    struct Powers
    {
        double offered = 0, accepted = 0, radiated = 0;
    };
    [[nodiscard]] Powers powers(int order, double frequency, int drive) const;
    /// Power that pieces take, W, of the modelled part, for the wave that a port is
    /// driven with as a whole.
    [[nodiscard]] double absorbed(int order, double frequency, int drive,
                                  const std::vector<int>& pieces) const;
    /// Power by mass that pieces take, W/kg, as absorbed(): of all of it, and at the worst point of
    /// quadrature.
    struct SpecificAbsorption
    {
        double mean = 0, largest = 0;
    };
    [[nodiscard]] SpecificAbsorption specificAbsorption(int order, double frequency, int drive,
                                                        const std::vector<int>& pieces) const;
    /// What a device makes of a plane wave: areas, m^2, of the whole device (in drawings of its
    /// depth).
    struct CrossSections
    {
        double extinction = 0, absorption = 0;
        double reactive = 0;  ///< the real part of the number whose imaginary part is extinction
        [[nodiscard]] double scattering() const { return extinction - absorption; }
    };
    [[nodiscard]] CrossSections crossSections(int order, double frequency, int wave) const;
    /// What is scattered of plane wave number `wave`.
    [[nodiscard]] const ScatteredField& scattered(int order, double frequency, int wave) const;
    /// Power that a port takes from a plane wave, W, of the whole device.
    [[nodiscard]] double received(int order, double frequency, int port, int wave) const;
    /// Number of a drive by the name of its port, dipole or plane wave; -1: none.
    [[nodiscard]] int driveOf(const std::string& name) const;
    /// What the first mode of a port sees, ohm, with all other ports closed by their impedances;
    /// for the whole line or source.
    [[nodiscard]] std::complex<double> inputImpedance(int order, double frequency, int port) const;
    /// The far field of a drive.
    [[nodiscard]] FarField farField(int order, double frequency, int drive) const;
    /// How many systems were solved for the band, and by how much S was off at the last of those
    /// frequencies before it was solved there.
    [[nodiscard]] int solutions() const { return m_models.back().solutions; }
    [[nodiscard]] double verified() const { return m_models.back().verified; }

private:
    enum Part {
        curl,
        mass,
        lossy,
        conducting,
        absorbCurl,
        absorbMass,
        slantLinear,
        slantSquare,
        resistive,
        wireConstant,
        wireLinear,
        wireSquare,
        wireFourth,
        wireMedium,
        wireMetal,
        partCount  ///< beyond it: the mass of one of m_running each
    };
    /// What eliminating the functions of the next order takes off the small model's matrix and
    /// drives and adds to the drives' own parts, at some frequencies. Behind ports and dipoles come
    /// plane waves, and behind those the same running back.
    struct Next
    {
        std::vector<double> places;  ///< Hz
        std::vector<Eigen::MatrixXcd> matrix, drive, self;
        /// Where there are plane waves: the sphere of the next order, and the rows of its functions
        /// that are new and free.
        std::vector<Part> parts;  ///< that `rows` are of
        std::unique_ptr<fem::EdgeSpace> space;
        std::unique_ptr<Illumination> sphere;
        std::vector<int> functions;
        std::vector<fem::NextOrder::Part> rows;
        [[nodiscard]] Eigen::MatrixXcd at(const std::vector<Eigen::MatrixXcd>& values,
                                          double frequency) const;
    };
    /// A plane wave in the small model, at some frequencies: its load, that of the same wave
    /// running back, both in the basis, and b_2(w).
    struct IncidentLoad
    {
        std::vector<Illumination::Values> loads, back;
        Eigen::MatrixXcd load, returned;  ///< shape (basis, frequencies)
        std::vector<std::complex<double>> self;
    };
    /// The small model of one order. Its matrices are by Part.
    struct Model
    {
        int order = 0;
        std::shared_ptr<const PeriodicFunctions> periodic;
        std::vector<PortMode> modes;                      ///< by channel
        mutable std::unique_ptr<SphereExpansion> sphere;  ///< of the basis, once it is asked for
        std::vector<std::vector<double>> basis;           ///< by part of the order's functions
        std::vector<Eigen::MatrixXd> reduced;
        /// What channels and dipoles drive with, of which hybrid modes have several: by load.
        Eigen::MatrixXd drive;  ///< shape (basis, loads)
        /// u_w S^-1 times the rows of the walls, by part; the same with each other, by pair of
        /// parts; and u_w with itself.
        std::vector<Eigen::MatrixXd> wallDrive, wallPair;
        Eigen::MatrixXd wallSelf;
        std::vector<IncidentLoad> incident;      ///< by plane wave
        std::unique_ptr<Illumination> sphereOf;  ///< where there are plane waves
        int solutions = 0;
        double verified = 0;
        std::shared_ptr<const Next> next;  ///< what the functions of the next order take off
    };
    /// A dispersive medium at one of the temperatures between which it is interpolated.
    struct Running
    {
        size_t medium = 0;
        double temperature = roomTemperature;
        /// Where there are several: Lagrange's polynomial of this temperature times the reference,
        /// by piece, and its masses.
        std::vector<fem::Coefficient> share;
        fem::EdgeElements elements;
    };
    /// Its relative permittivity over the reference, less 1.
    [[nodiscard]] std::complex<double> excess(const Running& r, double frequency) const
    {
        const auto& d = m_problem.dispersive[r.medium];
        return d.eps(frequency, r.temperature) / d.reference - 1.0;
    }
    /// The least and largest temperature in a medium that warms; `only` gets its cells.
    [[nodiscard]] std::array<double, 2> temperaturesIn(const WaveProblem::Dispersive& d,
                                                       std::vector<char>& only) const;
    /// The share of temperature `k` of those at which a medium is taken.
    [[nodiscard]] fem::Coefficient shareOf(const std::vector<double>& at, size_t k,
                                           double reference) const;
    /// What of a dipole belongs to the modelled part: a plane of symmetry through it leaves half of
    /// it on each side.
    [[nodiscard]] double shareOf(const PointDipole& d) const;
    /// Finds the temperatures at which media that depend on them are taken.
    void findRunning();
    [[nodiscard]] double temperatureAt(int cell, const Point& xi) const
    {
        return m_temperature ? m_temperature(cell, xi) : roomTemperature;
    }
    /// Where the entries of a sheet beside a cell go.
    [[nodiscard]] double* sheetEntries(int cell);
    /// Films and absorbing walls.
    void findSheets();
    [[nodiscard]] WireCurrents wireCurrents(int order) const;
    /// Adds the currents of thin wires behind the functions of an order.
    /// @returns the products of the two
    std::vector<WireCurrents::Product> joinWires(int order, fem::Numbering& numbering,
                                                 fem::SymmetricFamily& family) const;
    /// Of the first metal of the wires, times M^2; ohm/m.
    [[nodiscard]] std::complex<double> wireImpedance(double frequency) const;
    /// Rows of functions of the next order against what the wires carry in the basis.
    [[nodiscard]] fem::NextOrder::Part wireRows(const fem::EdgeSpace& space, const Model& model,
                                                size_t functions, int first) const;
    [[nodiscard]] static bool isOfWires(Part part)
    {
        return part >= wireConstant && part <= wireMetal;
    }
    /// Place of a drive's function among those of an order with the wires' currents behind them.
    [[nodiscard]] static size_t withWires(int number, int functions)
    {
        return number >= 0 ? size_t(number) : size_t(functions - 1 - number);
    }
    /// What the walls add, times -wallShare().
    [[nodiscard]] Eigen::MatrixXd wallForm(const Model& m, double frequency) const;
    /// Drives of the walls against the basis; by load.
    [[nodiscard]] Eigen::MatrixXd wallDrive(const Model& m, double frequency) const;
    [[nodiscard]] const fem::ElementMatrices& elementsOf(Part part) const;
    /// Factors of the pieces in the matrix of a part.
    [[nodiscard]] std::vector<double> byPiece(Part part) const;
    [[nodiscard]] const Model& at(int order) const;
    [[nodiscard]] std::complex<double> factor(size_t part, double frequency) const;
    [[nodiscard]] Eigen::MatrixXcd small(const Model& m, double frequency) const;
    /// The same without what the walls of metal add.
    [[nodiscard]] Eigen::MatrixXcd assembledOnly(const Model& m, double frequency) const;
    [[nodiscard]] Eigen::VectorXcd impedances(const Model& m, double frequency) const;
    /// For a wave of amplitude 1 (half a watt into the modelled part) into each channel, for each
    /// dipole and each plane wave: coefficients of the field in the basis, currents and voltages of
    /// channels and dipoles.
    struct Response
    {
        Eigen::MatrixXcd field, current, voltage;
    };
    [[nodiscard]] Response response(const Model& m, double frequency) const;
    /// Z_s / (j omega mu0) of the walls; 0 without metal.
    [[nodiscard]] std::complex<double> wallShare(double frequency) const;
    [[nodiscard]] Eigen::MatrixXcd scattering(const Model& m, double frequency) const;
    /// What the small model is judged by: S, for each dipole the power that it radiates over that
    /// of the same dipole alone, and for each plane wave what is scattered onwards over the
    /// sphere's section. Source: Jackson, section 9.2 (from memory).
    [[nodiscard]] Eigen::MatrixXcd judged(const Model& m, double frequency) const;
    /// The field of a plane wave as the next order would have it, by function of that order.
    [[nodiscard]] std::array<std::vector<double>, 2> lookedAhead(const Model& m, double frequency,
                                                                 int wave,
                                                                 const Eigen::VectorXcd& y) const;
    [[nodiscard]] std::vector<double> combine(const Model& m, const Eigen::VectorXd& y) const;
    /// Real and imaginary part of a field by function.
    [[nodiscard]] Shown fieldOf(const Model& m, const Eigen::VectorXcd& y) const;
    /// Amplitudes of all drives from those of channels and dipoles (periodic: of b and i b).
    [[nodiscard]] static Eigen::MatrixXcd ofAll(const Model& m, const Eigen::MatrixXcd& amplitudes);
    /// Plane wave number `wave` at a frequency.
    [[nodiscard]] IncidentField incident(int wave, double frequency) const;
    /// Weights of the frequencies at which plane waves are known.
    [[nodiscard]] Eigen::VectorXd litWeights(double frequency) const;
    void findLitPlaces();
    /// By how much exp(-j k r) turns over half the band, rad.
    [[nodiscard]] double incidentTurn() const;
    /// Loads of a plane wave and of the same running back, and b_2(w).
    struct LitLoads
    {
        Illumination::Values forth, back;
        std::complex<double> self;
    };
    /// @param lifted  the sphere whose order the lift has: that of the loads, or the order below
    [[nodiscard]] LitLoads incidentLoads(const Illumination& sphere, const Illumination& lifted,
                                         int wave, double frequency) const;
    /// 4 pi F . p of a plane wave as it goes on, V m.
    [[nodiscard]] std::complex<double> onwards(const Model& m, double frequency, int wave,
                                               const Response& r) const;
    /// Power that media and walls take, W, of the modelled part.
    struct Taken
    {
        double media = 0, walls = 0;
    };
    [[nodiscard]] Taken taken(const Model& m, double frequency, const Eigen::VectorXcd& field,
                              const Eigen::VectorXcd& current) const;
    /// The walls of metal of one order: their functions and S.
    struct Walls
    {
        fem::Numbering numbering;
        fem::SparseSymmetric products;
        fem::Cholesky factor;
        /// Whether there is metal with field on both of its sides: every function then has two
        /// rows, those of all first sides before those of all second ones.
        bool twoSided = false;
        /// What cells give to the rows: place among the wall's functions, and the share that
        /// belongs to the first side.
        struct Touch
        {
            int local = 0, place = 0;  ///< of its real part
            double first = 1;
        };
        std::vector<std::pair<int, std::vector<Touch>>> cells;
        std::vector<char> isTwoSided;  ///< by place
        /// By port and place: the share of its field there that is on the first side.
        std::vector<std::map<int, double>> portShare;
        /// Rows that currents of thin wires enter, by number of the current.
        std::vector<WireCurrents::Product> wires;
        [[nodiscard]] size_t rows() const { return size_t(products.size) * (twoSided ? 2 : 1); }
    };
    /// Whether a function belongs to an edge of the mesh.
    [[nodiscard]] bool isOnEdge(int function, int order) const;
    /// Finds what the cells beside the walls give to either side.
    void findTouches(int order, const std::vector<std::vector<int>>& metal,
                     const PeriodicFunctions& periodic, Walls& walls) const;
    /// Which rows of walls the currents of wires enter.
    void findWires(const std::vector<WireCurrents::Product>& products, int order,
                   Walls& walls) const;
    class Builder;
    /// The functions that are solved for: those of cells that carry the wave, but not on walls.
    [[nodiscard]] std::vector<char> freeFunctions(const fem::EdgeSpace& space, int order,
                                                  std::span<const int> walls,
                                                  const PeriodicFunctions& periodic) const;
    /// The cell of a side of the mesh that carries the wave.
    [[nodiscard]] int cellBeside(int side) const;
    /// Marks the functions of cells that the lowest order does not see well.
    void markDirect(int order, std::vector<char>& direct) const;
    /// What an iterative solution needs to know of the unknowns.
    void findBlocks(int order, const fem::Numbering& numbering, std::vector<char>& lowest,
                    fem::EdgeBlocks& blocks) const;
    /// Shares of the loads in what channels and dipoles drive with at a frequency; shape (loads,
    /// channels and dipoles), of all drives.
    [[nodiscard]] Eigen::MatrixXd driveShares(const Model& m, double frequency) const;
    /// The parts of the next order in the same terms, behind which come plane waves.
    struct NextDrive
    {
        Eigen::MatrixXcd drive, self;
    };
    [[nodiscard]] NextDrive nextDrive(const Model& m, double frequency) const;
    /// What drives: the parts of the modes' and dipoles' fields by function.
    [[nodiscard]] std::vector<fem::SideLoad> drives(const std::vector<PortMode>& modes,
                                                    const fem::EdgeSpace& space, int order,
                                                    const PeriodicFunctions& periodic) const;
    /// Orders and turns modes as known ones of another order are.
    void alignWith(const std::vector<PortMode>& known, std::vector<PortMode>& modes) const;
    /// Works out what the next order would change.
    void lookAhead(base::Progress& progress);
    /// The model of the next order, as far as it is that of this one or belongs to its modes.
    [[nodiscard]] std::unique_ptr<Model> nextModel(const fem::EdgeSpace& space,
                                                   const std::vector<int>& walls,
                                                   base::Progress& progress) const;
    /// Rows of the new functions against the basis.
    /// @param[out] parts  which of them make up the matrix
    [[nodiscard]] fem::NextOrder nextRows(const fem::EdgeSpace& space,
                                          const PeriodicFunctions& periodic,
                                          std::vector<Part>& parts) const;
    /// Drives: what they mean to the basis, and to the new functions.
    void driveNext(const std::vector<fem::SideLoad>& loads, const fem::NextOrder& rows,
                   const PeriodicFunctions& periodic, Model& next, Eigen::MatrixXcd& g) const;
    /// Keeps what plane waves need of the rows.
    static void keepRows(const fem::NextOrder& rows, const std::vector<char>& isFree, Next& next);
    /// Rows of the functions of the next order against fields by function, as rows of their parts
    /// against the basis.
    static void reduceRows(const PeriodicFunctions& periodic, size_t basis, fem::NextOrder& rows);
    /// One frequency of it. @param[in,out] eta  by function of the next order
    void addNextOrder(const fem::NextOrder& rows, const std::vector<char>& isFree,
                      const Eigen::MatrixXcd& g, double frequency, Next& next, const Response& r,
                      const Eigen::MatrixXd& shares, std::vector<double>& eta) const;
    /// Whether a side of the partition parts media or ends the field.
    [[nodiscard]] bool bounds(int side) const;
    [[nodiscard]] std::vector<double> withoutDipoles(std::vector<double> eta) const;
    /// The model whose basis one speaks of.
    [[nodiscard]] const Model& basisOf(const Model& m) const
    {
        return &m == m_next.get() ? m_models.back() : m;
    }
    [[nodiscard]] Walls wallsOf(int order, const std::vector<std::vector<int>>& metal,
                                std::span<const int> ranks,
                                const PeriodicFunctions& periodic) const;

    const WaveProblem& m_problem;
    const mesh::Mesh& m_mesh;
    const shape::Partition& m_partition;
    fem::EdgeSpace m_space;
    fem::EdgeElements m_elements, m_absorbing;
    fem::SlantElements m_slant;
    fem::ElementMatrices m_sheets;  ///< eta0 over the resistance times products along sheets
    std::vector<Part> m_parts;      ///< those that are assembled
    std::vector<Part> m_wallParts;  ///< of these, the ones that rows of walls are made of
    size_t m_fixedParts = 0;        ///< of these, the ones before m_running
    std::vector<Running> m_running;
    /// Whether a part has masses of its own.
    [[nodiscard]] bool hasShare(Part part) const
    {
        return part >= partCount && !m_running[size_t(part - partCount)].share.empty();
    }
    std::function<double(int, const Point&)> m_temperature;  ///< K; empty: room temperature
    std::vector<Channel> m_channels;
    std::vector<double> m_litPlaces;  ///< Hz, at which plane waves are known
    mutable std::map<std::array<double, 3>, ScatteredField> m_scattered;  ///< by order, Hz, wave
    std::vector<char> m_carrying;  ///< by cell; empty: all carry the wave
    std::vector<int> m_lossWalls;  ///< walls of metal that have sides here
    bool m_isLossy = false, m_isComplex = false, m_onlyShown = false, m_onlyMiddle = false;
    std::vector<Model> m_models;
    std::unique_ptr<Model> m_next;  ///< the newest with what the next order takes off
    std::vector<double> m_nextEta;  ///< by cell: what the next order has to add
    /// Power by which fields of amplitude 1, half a watt, are multiplied: of what ports are driven
    /// with as a whole the modelled part has a share; dipoles and plane waves have the strength
    /// stated.
    [[nodiscard]] double shareOf(int drive) const
    {
        if (drive >= int(m_channels.size()))
            return 1;
        const WavePort& port = m_problem.ports[size_t(m_channels[size_t(drive)].port)];
        return 2 * port.drive * port.share;
    }
    [[nodiscard]] Shown shownOf(const Model& model) const;
    Shown m_shown;                    ///< in phase and a quarter ahead, at the frequency shown
    std::vector<Shown> m_shownBelow;  ///< the same of the orders below
    std::vector<Quantity> m_quantities;
    Counters m_counters;
};

}  // namespace yh::physics
