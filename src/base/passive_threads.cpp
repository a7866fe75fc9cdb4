// Makes the threads of OpenMP wait without spinning, in every program that this file is linked into
// (as an object: nothing calls it).
//
// Threads that spin while they wait slow a factorisation down many times where another program
// takes one of the cores. The OpenMP library reads its policy before main() begins, and only what
// runs before all libraries comes in time for it. There, an entry of the environment can be
// replaced but none added. So an entry that no library asks for while it is loaded is lent for the
// policy and put back before main(), from where on the policy is a variable of its own, also for
// the programs that this one starts.
#include <cstdlib>
#include <cstring>
#include <initializer_list>

#include <unistd.h>

namespace {

char policy[] = "OMP_WAIT_POLICY=passive";
char** lentPlace = nullptr;  ///< of the environment, while the policy stands in it
char* lent = nullptr;        ///< what belongs there

bool begins(const char* entry, const char* with)
{
    return std::strncmp(entry, with, std::strlen(with)) == 0;
}

/// Runs before the initialisers of all libraries.
void lend(int, char**, char** environment)
{
    for (char** e = environment; *e; ++e)
        if (begins(*e, "OMP_WAIT_POLICY=") || begins(*e, "GOMP_SPINCOUNT="))
            return;
    for (const char* idle : {"_=", "SHLVL=", "OLDPWD=", "PWD=", "HOME=", "USER=", "PATH="})
        for (char** e = environment; *e; ++e)
            if (begins(*e, idle)) {
                lentPlace = e;
                lent = *e;
                *e = policy;
                return;
            }
}
using Early = void (*)(int, char**, char**);
__attribute__((section(".preinit_array"), used)) const Early early = lend;

/// Runs behind the initialisers of all libraries, before main().
__attribute__((constructor)) void giveBack(int, char** arguments, char**)
{
    if (lentPlace) {
        *lentPlace = lent;
        ::setenv("OMP_WAIT_POLICY", "passive", 1);
    } else if (!std::getenv("OMP_WAIT_POLICY") && !std::getenv("GOMP_SPINCOUNT")) {
        // Nothing could be lent: the program starts again with the variable set.
        ::setenv("OMP_WAIT_POLICY", "passive", 1);
        ::execv("/proc/self/exe", arguments);
    }
}

}  // namespace
