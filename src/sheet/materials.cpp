#include "sheet/materials.h"

#include "sheet/material_sources.h"

namespace yh::sheet {

using namespace sources;

const std::vector<Material>& materials()
{
    // name, eps, conductor, resistivity, alpha, k, density, c, limit, Seebeck, gas, source
    static const std::vector<Material> list = {
        {"vacuum", 1.0, false, 0, 0, 0, 0, 0, 0, 0, true, "by definition"},
        {"air", 1.000589, false, 0, 0, 0.0257, 1.204, 1005.0, 0, 0, true, crc},
        {"nitrogen", 1.00055, false, 0, 0, 0.0255, 1.165, 1040.0, 0, 0, true, crc},
        {"helium", 1.000065, false, 0, 0, 0.152, 0.1664, 5193.0, 0, 0, true, crc},
        {"argon", 1.00052, false, 0, 0, 0.0176, 1.662, 520.0, 0, 0, true, crc},
        {"sulphur hexafluoride", 1.00204, false, 0, 0, 0.0126, 6.16, 664.0, 0, 0, true, crc},
        {"PTFE", 2.1, false, 0, 0, 0.25, 2170.0, 1000.0, 533.15, 0, false, kl},
        {"polyethylene", 2.26, false, 0, 0, 0.42, 950.0, 2300.0, 353.15, 0, false, kl},
        {"cross-linked polyethylene", 2.3, false, 0, 0, 0.29, 920.0, 2300.0, 363.15, 0, false,
         practice},
        {"polypropylene", 2.2, false, 0, 0, 0.2, 905.0, 1920.0, 373.15, 0, false, kl},
        {"polystyrene", 2.55, false, 0, 0, 0.14, 1050.0, 1300.0, 353.15, 0, false, kl},
        {"polyimide", 3.4, false, 0, 0, 0.12, 1420.0, 1090.0, 673.15, 0, false, practice},
        {"PVC", 3.5, false, 0, 0, 0.17, 1400.0, 1000.0, 343.15, 0, false, practice},
        {"acrylic glass", 3.3, false, 0, 0, 0.19, 1190.0, 1470.0, 363.15, 0, false, practice},
        {"polyamide 6.6", 4.0, false, 0, 0, 0.25, 1140.0, 1700.0, 373.15, 0, false, practice},
        {"polycarbonate", 2.95, false, 0, 0, 0.2, 1200.0, 1200.0, 393.15, 0, false, practice},
        {"polyester film", 3.2, false, 0, 0, 0.15, 1380.0, 1170.0, 423.15, 0, false, practice},
        {"polyether ether ketone", 3.2, false, 0, 0, 0.25, 1300.0, 1340.0, 523.15, 0, false,
         practice},
        {"polyoxymethylene", 3.7, false, 0, 0, 0.31, 1410.0, 1470.0, 373.15, 0, false, practice},
        {"epoxy resin", 3.6, false, 0, 0, 0.2, 1200.0, 1050.0, 403.15, 0, false, practice},
        {"epoxy glass laminate", 4.5, false, 0, 0, 0.3, 1850.0, 1000.0, 403.15, 0, false, practice},
        {"silicone rubber", 2.9, false, 0, 0, 0.2, 1150.0, 1300.0, 473.15, 0, false, practice},
        {"fused silica", 3.78, false, 0, 0, 1.38, 2203.0, 740.0, 1373.15, 0, false, kl},
        {"borosilicate glass", 4.6, false, 0, 0, 1.14, 2230.0, 830.0, 773.15, 0, false, kl},
        {"soda-lime glass", 7.2, false, 0, 0, 1.0, 2500.0, 840.0, 723.15, 0, false, practice},
        {"sapphire", 9.4, false, 0, 0, 40.0, 3980.0, 760.0, 2313.15, 0, false, practice},
        {"mica", 6.9, false, 0, 0, 0.5, 2800.0, 880.0, 823.15, 0, false, kl},
        {"alumina 96 %", 9.4, false, 0, 0, 24.0, 3750.0, 880.0, 1973.15, 0, false, practice},
        {"alumina 99.5 %", 9.8, false, 0, 0, 30.0, 3890.0, 880.0, 2023.15, 0, false, practice},
        {"aluminium nitride", 8.8, false, 0, 0, 170.0, 3260.0, 740.0, 2073.15, 0, false, practice},
        {"beryllia", 6.7, false, 0, 0, 265.0, 2850.0, 1020.0, 2073.15, 0, false, practice},
        {"steatite", 6.1, false, 0, 0, 2.5, 2700.0, 840.0, 1273.15, 0, false, practice},
        {"zirconia", 25.0, false, 0, 0, 2.2, 6000.0, 450.0, 1773.15, 0, false, practice},
        {"boron nitride", 4.2, false, 0, 0, 30.0, 1900.0, 800.0, 1223.15, 0, false, practice},
        {"diamond", 5.7, false, 0, 0, 2200.0, 3515.0, 509.0, 873.15, 0, false, crc},
        {"concrete", 4.5, false, 0, 0, 1.4, 2300.0, 880.0, 0, 0, false, practice},
        {"silicon", 11.7, false, 0, 0, 148.0, 2329.0, 705.0, 1687.15, 0, false, crc},
        {"germanium", 16.2, false, 0, 0, 60.0, 5323.0, 320.0, 1211.45, 0, false, crc},
        {"gallium arsenide", 12.9, false, 0, 0, 46.0, 5318.0, 330.0, 1511.15, 0, false, crc},
        {"gallium nitride", 8.9, false, 0, 0, 130.0, 6150.0, 490.0, 0, 0, false, practice},
        {"silicon carbide", 9.7, false, 0, 0, 370.0, 3210.0, 690.0, 0, 0, false, practice},
        {"bismuth telluride n", 0, true, 1e-05, 0, 1.5, 7740.0, 160.0, 858.15, -0.0002, false,
         practice},
        {"bismuth telluride p", 0, true, 1e-05, 0, 1.5, 6800.0, 180.0, 858.15, 0.0002, false,
         practice},
        {"water", 80.1, false, 0, 0, 0.598, 998.2, 4184.0, 373.15, 0, false, crc},
        {"sea water", 74.0, false, 0.208, -0.02, 0.59, 1025.0, 3990.0, 373.15, 0, false,
         "static permittivity at 20 degC, salinity 35, after Stogryn 1971; the rest Kaye and Laby "
         "(from memory)"},
        {"ice", 91.6, false, 0, 0, 2.2, 917.0, 2090.0, 273.15, 0, false,
         "permittivity static, at -10 degC: Auty and Cole 1952; the rest CRC Handbook (from "
         "memory)"},
        {"mineral oil", 2.2, false, 0, 0, 0.13, 870.0, 1860.0, 423.15, 0, false, kl},
        {"ethanol", 25.3, false, 0, 0, 0.167, 789.0, 2440.0, 351.45, 0, false, crc},
        {"glycerol", 42.5, false, 0, 0, 0.285, 1261.0, 2430.0, 563.15, 0, false, crc},
        {"silver", 0, true, 1.587e-08, 0.0038, 429.0, 10490.0, 235.0, 1234.95, 0, false, crc},
        {"copper", 0, true, 1.678e-08, 0.0039, 401.0, 8960.0, 385.0, 1357.75, 0, false, crc},
        {"gold", 0, true, 2.214e-08, 0.0034, 318.0, 19300.0, 129.0, 1337.35, 0, false, crc},
        {"aluminium", 0, true, 2.65e-08, 0.0043, 237.0, 2699.0, 897.0, 933.45, 0, false, crc},
        {"magnesium", 0, true, 4.39e-08, 0.0041, 156.0, 1738.0, 1023.0, 923.15, 0, false, crc},
        {"tungsten", 0, true, 5.28e-08, 0.0045, 173.0, 19250.0, 132.0, 3695.15, 0, false, crc},
        {"molybdenum", 0, true, 5.34e-08, 0.0047, 138.0, 10280.0, 251.0, 2896.15, 0, false, crc},
        {"zinc", 0, true, 5.9e-08, 0.0037, 116.0, 7140.0, 388.0, 692.65, 0, false, crc},
        {"nickel", 0, true, 6.93e-08, 0.006, 90.9, 8908.0, 445.0, 1728.15, 0, false, crc},
        {"indium", 0, true, 8.4e-08, 0.0047, 81.8, 7310.0, 233.0, 429.75, 0, false, crc},
        {"iron", 0, true, 9.61e-08, 0.0056, 80.4, 7874.0, 449.0, 1811.15, 0, false, crc},
        {"platinum", 0, true, 1.05e-07, 0.0039, 71.6, 21450.0, 133.0, 2041.45, 0, false, crc},
        {"palladium", 0, true, 1.054e-07, 0.0037, 71.8, 12020.0, 244.0, 1828.05, 0, false, crc},
        {"tin", 0, true, 1.15e-07, 0.0042, 66.8, 7287.0, 227.0, 505.05, 0, false, crc},
        {"chromium", 0, true, 1.25e-07, 0.003, 93.9, 7190.0, 449.0, 2180.15, 0, false, crc},
        {"tantalum", 0, true, 1.31e-07, 0.0035, 57.5, 16650.0, 140.0, 3290.15, 0, false, crc},
        {"lead", 0, true, 2.08e-07, 0.0039, 35.3, 11340.0, 129.0, 600.65, 0, false, crc},
        {"titanium", 0, true, 4.2e-07, 0.0035, 21.9, 4506.0, 522.0, 1941.15, 0, false, crc},
        {"bismuth", 0, true, 1.17e-06, 0.0042, 7.9, 9780.0, 122.0, 544.55, 0, false, crc},
        {"mercury", 0, true, 9.61e-07, 0.0009, 8.3, 13534.0, 140.0, 629.75, 0, false, crc},
        {"brass", 0, true, 6.4e-08, 0.0015, 120.0, 8530.0, 380.0, 1188.15, 0, false, practice},
        {"phosphor bronze", 0, true, 1.1e-07, 0.002, 70.0, 8800.0, 380.0, 1223.15, 0, false,
         practice},
        {"steel", 0, true, 1.5e-07, 0.004, 50.0, 7850.0, 490.0, 1773.15, 0, false, practice},
        {"stainless steel", 0, true, 7.2e-07, 0.00094, 16.2, 8000.0, 500.0, 1673.15, 0, false,
         practice},
        {"constantan", 0, true, 4.9e-07, 3e-05, 21.0, 8900.0, 390.0, 1498.15, 0, false, kl},
        {"manganin", 0, true, 4.4e-07, 1e-05, 22.0, 8400.0, 410.0, 1233.15, 0, false, kl},
        {"nickel chromium 80/20", 0, true, 1.09e-06, 0.0001, 11.3, 8400.0, 450.0, 1673.15, 0, false,
         practice},
        {"iron chromium aluminium", 0, true, 1.4e-06, 4e-05, 13.0, 7150.0, 460.0, 1773.15, 0, false,
         practice},
        {"solder tin lead 63/37", 0, true, 1.45e-07, 0.004, 50.0, 8400.0, 176.0, 456.15, 0, false,
         practice},
        {"solder tin silver copper", 0, true, 1.2e-07, 0.004, 58.0, 7400.0, 232.0, 490.15, 0, false,
         practice},
        {"graphite", 0, true, 1e-05, -0.0005, 100.0, 1800.0, 710.0, 3873.15, 0, false, practice},
    };
    return list;
}

const Material* findMaterial(const std::string& name)
{
    for (const Material& m : materials())
        if (m.name == name)
            return &m;
    return nullptr;
}

}  // namespace yh::sheet
