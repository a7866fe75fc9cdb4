// Reading the waves of a sheet; inside this folder only.
#pragma once

#include "physics/common/sheet_reader.h"
#include "physics/wave/common/wave.h"

namespace yh::physics {

/// Materials and walls are read in reader.cpp, ports and other sources in sources.cpp.
class WaveReader : SheetReader
{
public:
    using SheetReader::SheetReader;
    std::unique_ptr<WaveProblem> run();

private:
    friend class WireReader;
    using Line = sheet::Line;
    shape::Selection resolve(const Line& l);
    /// A property as a coefficient: constant or by place.
    fem::Coefficient coefficient(const Line& l, const std::string& key, double fallback,
                                 bool inverse);
    /// Where the permittivity or what belongs to it runs with the frequency or has an imaginary
    /// part: it with all losses.
    WaveProblem::Dispersive running(const Line& l, double eps, double loss, double sigma);
    /// Puts a medium that runs with the frequency in the place of constants.
    void dispersive(const Line& l, WaveProblem::Dispersive d);
    /// A number that may not depend on place here.
    double plain(const Line& l, const std::string& key, double fallback);
    /// Where E points.
    void kind();
    void materials();
    /// Regions of metal carry no field: their surfaces are walls.
    void surfaces();
    void symmetry();
    /// A wall on one side.
    void wallOn(const Line& l, int side, int kind);
    void stated();
    void sheets();
    void periodicPairs();
    void pairUp(const Line& l, const std::vector<int>& from, const std::vector<int>& to);
    void guide();
    void openSpace();
    void dipoles();
    /// A wave must have the symmetry of the planes.
    void mustFitPlanes(const Line& l, const PlaneWave& w);
    /// In a drawing a wave travels in its plane, and E lies in it or across it.
    void mustFitDrawing(const Line& l, const PlaneWave& w, bool across);
    /// The side of a list that another one is moved to, or -1.
    [[nodiscard]] int partnerOf(int side, const std::vector<int>& list, const Point& shift) const;
    void planeWaves();
    void lumpedPorts();
    /// Thin wires and the ports in them; behind all other ports.
    void wires();
    /// Plane waves of the space behind ports are real only if they run straight into it.
    void findTurning();
    /// The phase by length along the pairs.
    [[nodiscard]] Point slantOf(double angle, double azimuth) const;
    void incidence();
    void ports();
    /// What ports round an axis cannot be.
    void roundAxis(const WavePort& port);
    /// Sets what the whole port is against the part of it that is modelled: an even plane through a
    /// line cuts its current in half, an odd one its voltage, and either its power.
    void setWhole(WavePort& port) const;
    /// How many regions with field touch a side.
    [[nodiscard]] int fieldsAt(int side) const;
    /// Says and notes where the guide behind a port has several media.
    void mediaBehind(const Line& l, WavePort& port, int field);
    void portSide(const Line& l, WavePort& port, int side);
    void wanted();

    std::vector<char> m_isMetal, m_known;  ///< by piece
    /// By piece of metal: the wall that its surface is; -1: none.
    std::vector<int> m_metalWall = std::vector<int>(m_p.pieces().size(), -1);
    std::unique_ptr<WaveProblem> m_out = std::make_unique<WaveProblem>();
};

}  // namespace yh::physics
