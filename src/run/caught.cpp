#include "run/caught.h"

#include <Standard_Failure.hxx>

#include <new>
#include <stdexcept>
#include <string>

namespace yh::run {

using base::Error;
using base::Faults;

base::Faults caught()
{
    auto own = [](const std::string& what) {
        return Faults{{7303,
                       {},
                       "the solver ran into a fault of its own: " + what +
                           "; shift or simplify the shapes a little, or leave the last line out",
                       false}};
    };
    try {
        throw;
    } catch (const base::Cancelled&) {
        throw;
    } catch (const Faults& f) {
        return f;
    } catch (const Error& e) {
        return {e.fault()};
    } catch (const std::bad_alloc&) {
        return {{7001,
                 {},
                 "there is not enough memory for this sheet; ask for less accuracy or larger cells",
                 false}};
    } catch (const Standard_Failure& e) {
        return own(std::string("the shape kernel says ") + e.DynamicType()->Name());
    } catch (const std::exception& e) {
        return own(e.what());
    } catch (const std::string& what) {
        return own(what);
    } catch (const char* what) {
        return own(what);
    } catch (...) {
        return own("it is of an unknown kind");
    }
}

}  // namespace yh::run
