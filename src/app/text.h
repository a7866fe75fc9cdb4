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

/// A unit as it is printed: Ω, m², K·s.
inline QString unitText(const std::string& symbol)
{
    QString s = qs(symbol);
    return s.replace(QLatin1StringView("ohm"), QStringLiteral("Ω"))
        .replace(QLatin1StringView("^2"), QStringLiteral("²"))
        .replace(QLatin1StringView("^3"), QStringLiteral("³"))
        .replace(u'*', u'·');
}

/// A text that a field says of itself, in the language of the window.
inline QString translated(const std::string& s)
{
    return QCoreApplication::translate("topics", s.c_str());
}

}  // namespace yh::app
