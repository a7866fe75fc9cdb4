// One program for many classes of tests: what they share is compiled and linked once.
#pragma once

#include <functional>

class QObject;

namespace yh::test {

/// A class of tests, listed by the file it stands in; the program named as the file runs it.
struct Listed
{
    Listed(const char* file, std::function<QObject*()> make);
};
/// Runs the class that the program's name says: its file's (tst_fem); a status as Qt Test gives it.
/// 127 where there is none of the name.
int runNamed(int argc, char** argv);

}  // namespace yh::test

/// Lists the class of tests of this file, at its end.
#define YH_TEST(Class) \
    static const yh::test::Listed listed##Class(__FILE__, [] { return new Class; });
