// Two fields that only these tests have, each one folder (tests/rooms): a field on a mesh, and a
// closed form without one. Nothing else knows of them.
#include "program.h"
#include "solved.h"

#include "sheet/sentence.h"
#include "sheet/topic.h"

namespace tst_rooms {

using namespace yh;
using sheet::Document;
using test::errorOf;
using test::solved;
using test::valueOf;

class TstRooms : public QObject
{
    Q_OBJECT
private Q_SLOTS:
    void lines()
    {
        // A typed line of the new field is known, and its section is on the page.
        Document d;
        d.add("rectangle", {{"name", "soil"}, {"width", "4 m"}, {"height", "1 m"}});
        const auto typed = sheet::compose("water level up of 3 m on soil.left", d);
        QVERIFY(typed.ok);
        QCOMPARE(typed.kind, std::string("water level"));
        d.add(typed.kind, typed.values);
        QCOMPARE(sheet::topicOf(d).key, std::string("seepage"));
        QVERIFY(sheet::isOffered("seepage", d));
        QVERIFY(!sheet::isOffered("waves", d));
    }
    /// Between two levels beside a slab of soil: height over width times the difference.
    void slab()
    {
        Document d;
        d.add("rectangle", {{"name", "soil"}, {"width", "4 m"}, {"height", "1 m"}});
        d.add("water level", {{"name", "up"}, {"head", "3 m"}, {"on", "soil.left"}});
        d.add("water level", {{"name", "down"}, {"head", "1 m"}, {"on", "soil.right"}});
        d.add("seepage", {});
        const auto r = solved(d);
        QVERIFY(r.report.allMet());
        QVERIFY(std::abs(valueOf(r, "seepage") - 0.5) < 1e-9);
    }
    /// Between the rims of a quarter of a ring: pi/2 over ln(outer / inner).
    void ring()
    {
        Document d;
        d.add("ring", {{"name", "soil"}, {"inner", "1 m"}, {"outer", "3 m"}});
        d.add("water level", {{"name", "in"}, {"head", "1 m"}, {"on", "soil.inner"}});
        d.add("water level", {{"name", "out"}, {"head", "0 m"}, {"on", "soil.outer"}});
        d.add("seepage", {{"within", "0.01 %"}});
        const auto r = solved(d);
        const double exact = 2 * 3.14159265358979323846 / std::log(3.0);
        QVERIFY(std::abs(valueOf(r, "seepage") / exact - 1) < 1e-4);
        QVERIFY(r.report.allMet());
        QVERIFY(r.report.passes.size() >= 2);
    }
    /// A fault of the new field comes at its section.
    void fault()
    {
        Document d;
        d.add("rectangle", {{"name", "soil"}, {"width", "4 m"}, {"height", "1 m"}});
        d.add("water level", {{"name", "up"}, {"head", "3 m"}, {"on", "soil.left"}});
        d.add("seepage", {});
        QVERIFY(test::isRefused(d, 9001));
    }
    /// series/2 + sqrt(series^2/4 + series shunt), to within its ±, without a shape or a mesh.
    void ladder()
    {
        Document d;
        d.add("ladder", {{"series", "10 ohm"}, {"shunt", "100 ohm"}});
        d.add("ladder resistance", {{"within", "0.1 %"}});
        const auto r = solved(d);
        const double exact = 5 + std::sqrt(25 + 1000.0);
        QVERIFY(r.report.allMet());
        QVERIFY(errorOf(r, "resistance of the ladder") > 0);
        QVERIFY(std::abs(valueOf(r, "resistance of the ladder") - exact) <
                errorOf(r, "resistance of the ladder"));
        QCOMPARE(r.report.passes.size(), size_t(1));
        // Notes had been those of the evaluation that came last, at whatever order.
        QCOMPARE(r.report.findings[0].note, std::string("of 40 sections"));
    }
};

YH_TEST(TstRooms)

}  // namespace tst_rooms

#include "tst_rooms.moc"
