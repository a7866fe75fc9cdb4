// Small layout files that tests write.
#pragma once

#include <QString>

#include <cmath>
#include <fstream>
#include <initializer_list>
#include <string>

namespace yh::test {

/// A small GDSII file: records of length, type, data type and data.
class Gds
{
public:
    Gds& record(int type, int dataType, const std::string& data = {})
    {
        const size_t n = data.size() + 4;
        m_bytes += char(n >> 8);
        m_bytes += char(n & 0xff);
        m_bytes += char(type);
        m_bytes += char(dataType);
        m_bytes += data;
        return *this;
    }
    static std::string shorts(std::initializer_list<int> list)
    {
        std::string s;
        for (const int v : list) {
            s += char((v >> 8) & 0xff);
            s += char(v & 0xff);
        }
        return s;
    }
    static std::string longs(std::initializer_list<int> list)
    {
        std::string s;
        for (const int v : list)
            for (int k = 24; k >= 0; k -= 8)
                s += char((v >> k) & 0xff);
        return s;
    }
    /// A real with an exponent of 16 behind an excess of 64 and 56 bits of mantissa.
    static std::string real(double v)
    {
        int e = 64;
        double m = std::abs(v);
        while (m >= 1) {
            m /= 16;
            ++e;
        }
        while (m > 0 && m < 1.0 / 16) {
            m *= 16;
            --e;
        }
        std::string s(1, char((v < 0 ? 0x80 : 0) | e));
        for (int i = 0; i < 7; ++i) {
            m *= 256;
            const int b = int(m);
            m -= b;
            s += char(b);
        }
        return s;
    }
    /// A library of one cell, in nm.
    Gds& begin(const std::string& cell)
    {
        return record(0x00, 2, shorts({600}))
            .record(0x01, 2, shorts({0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}))
            .record(0x02, 6, "LIBRARY1")
            .record(0x03, 5, real(1e-3) + real(1e-9))
            .structure(cell);
    }
    /// Ends the cell and the library.
    Gds& end() { return record(0x07, 0).record(0x04, 0); }
    Gds& structure(const std::string& name)
    {
        return record(0x05, 2, shorts({0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}))
            .record(0x06, 6, name.size() % 2 ? name + '\0' : name);
    }
    Gds& polygon(int layer, std::initializer_list<int> xy)
    {
        return record(0x08, 0)
            .record(0x0d, 2, shorts({layer}))
            .record(0x0e, 2, shorts({0}))
            .record(0x10, 3, longs(xy))
            .record(0x11, 0);
    }
    /// A path of a width, with ends that are cut off square.
    Gds& path(int layer, int width, std::initializer_list<int> xy)
    {
        return record(0x09, 0)
            .record(0x0d, 2, shorts({layer}))
            .record(0x0e, 2, shorts({0}))
            .record(0x0f, 3, longs({width}))
            .record(0x10, 3, longs(xy))
            .record(0x11, 0);
    }
    Gds& label(int layer, const std::string& text, int x, int y)
    {
        return record(0x0c, 0)
            .record(0x0d, 2, shorts({layer}))
            .record(0x16, 2, shorts({0}))
            .record(0x10, 3, longs({x, y}))
            .record(0x19, 6, text.size() % 2 ? text + '\0' : text)
            .record(0x11, 0);
    }
    void write(const QString& path) const
    {
        std::ofstream(path.toStdString(), std::ios::binary) << m_bytes;
    }

private:
    std::string m_bytes;
};

}  // namespace yh::test
