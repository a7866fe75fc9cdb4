#pragma once

// The plot library's header speaks Qt's old keywords, which the window's own code does without.
#define signals Q_SIGNALS
#define slots Q_SLOTS
#define emit Q_EMIT
#define foreach(variable, range) for (variable : range)
#include <qcustomplot.h>
#undef signals
#undef slots
#undef emit
#undef foreach
