// Text between the core and the window.
#pragma once

#include <QCoreApplication>
#include <QString>
#include <string>

namespace yh::app {

inline QString qs(const std::string& s)
{
    return QString::fromStdString(s);
}

/// A text that a field says of itself, in the language of the window.
inline QString translated(const std::string& s)
{
    return QCoreApplication::translate("topics", s.c_str());
}

}  // namespace yh::app
