// Tables of docs/validation.md that tests write anew where scripts/validate runs them.
#pragma once

#include <QtCore/QFile>
#include <QtCore/QString>

namespace yh::test {

/// Puts rows in the place of those below the first table head behind a heading.
/// @param rows  each with its line end
/// @returns whether the table was found and written; also where nothing is to be written
inline bool rewriteTable(const QString& heading, const QString& rows)
{
    if (!qEnvironmentVariableIsSet("YH_VALIDATE"))
        return true;
    QFile file(QStringLiteral(YH_SOURCE_DIR "/docs/validation.md"));
    if (!file.open(QIODevice::ReadOnly))
        return false;
    QString text = QString::fromUtf8(file.readAll());
    file.close();
    const auto section = text.indexOf(heading), rule = text.indexOf("\n|---", section),
               from = text.indexOf('\n', rule + 1) + 1, to = text.indexOf("\n\n", from - 1);
    if (section < 0 || rule < 0 || from <= 0 || to < 0)
        return false;
    text.replace(from, to - from, rows.chopped(1));
    return file.open(QIODevice::WriteOnly) && file.write(text.toUtf8()) > 0;
}

}  // namespace yh::test
