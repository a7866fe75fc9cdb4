#include "app/help_dialog.h"

#include "app/text.h"
#include "app/theme.h"
#include "sheet/topic.h"

#include <QCoreApplication>
#include <QDialogButtonBox>
#include <QTextBrowser>
#include <QUrl>
#include <QVBoxLayout>

using namespace Qt::Literals::StringLiterals;

namespace yh::app {

namespace {

QString titled(const QString& text)
{
    return u"<h3>%1</h3>"_s.arg(text.toHtmlEscaped());
}

/// A link that is typed into the compose line when it is clicked.
QString example(const std::string& text)
{
    return u"<p><a href=\"example:%1\"><code>%2</code></a></p>"_s.arg(
        QString::fromLatin1(QUrl::toPercentEncoding(qs(text))), qs(text).toHtmlEscaped());
}

QString aboutKind(const sheet::Kind& kind)
{
    QString html = titled(qs(kind.key));
    html += u"<p>%1</p>"_s.arg(translated(kind.help).toHtmlEscaped()) + example(kind.example);
    html += u"<table cellpadding=\"3\">"_s;
    for (const sheet::Slot& s : kind.entries) {
        QString value = qs(base::siUnit(s.dimension));
        if (!s.choices.empty()) {
            QStringList all;
            for (const std::string& c : s.choices)
                all << qs(c);
            value = all.join(u", "_s);
        }
        html += u"<tr><td><b>%1</b></td><td>%2</td><td>%3</td></tr>"_s.arg(
            qs(s.marker.empty() ? s.key : s.marker).toHtmlEscaped(),
            (s.help.empty() ? qs(s.key) : translated(s.help)).toHtmlEscaped(),
            value.toHtmlEscaped());
    }
    return html + u"</table>"_s;
}

QString aboutSheet(const sheet::Document& document)
{
    QString html = titled(QObject::tr("A sheet"));
    html += u"<p>%1</p>"_s.arg(
        QObject::tr("A sheet says in lines what a device is and what is asked of it. Choose a line "
                    "and press F1 to read what it may hold; type a new one with Ctrl+K, its parts "
                    "in any order. These are lines that this sheet can take:"));
    for (const sheet::Section& s : sheet::sections()) {
        QString lines;
        for (const sheet::Kind& k : sheet::kinds())
            if (k.section == s.key && !k.example.empty() && sheet::isOffered(s.key, document))
                lines += example(k.example);
        if (!lines.isEmpty())
            html += u"<h4>%1</h4>"_s.arg(translated(s.title).toHtmlEscaped()) + lines;
    }
    return html;
}

QString keys()
{
    const std::pair<const char*, QString> list[] = {
        {"F5", QObject::tr("solve the sheet")},
        {"Esc", QObject::tr("cancel while it solves; leave an editor")},
        {"Ctrl+K", QObject::tr("type a line")},
        {"Enter, Tab", QObject::tr("edit the chosen line; go on to its next value")},
        {"Alt+Up, Alt+Down", QObject::tr("move a line")},
        {"Space", QObject::tr("show all values of a line")},
        {"Ctrl+Z, Ctrl+Shift+Z", QObject::tr("undo, redo")},
        {"Ctrl+0", QObject::tr("fit the scene")},
        {"X, Y, Z", QObject::tr("in a solid: look along an axis, with Shift against it")},
        {"Ctrl+S, Ctrl+O, Ctrl+N", QObject::tr("save, open, begin another sheet")},
        {"F1", QObject::tr("help for the chosen line")}};
    QString html = titled(QObject::tr("Keys")) + u"<table cellpadding=\"3\">"_s;
    for (const auto& [key, text] : list)
        html += u"<tr><td><b>%1</b></td><td>%2</td></tr>"_s.arg(QString::fromLatin1(key), text);
    return html + u"</table>"_s;
}

QString about()
{
    return titled(QObject::tr("About")) +
           u"<p>%1</p>"_s.arg(
               QObject::tr("Yellowhorn %1 computes the fields of devices and returns each figure "
                           "with its numerical error. It is free software under the GNU General "
                           "Public License, version 3 or later.")
                   .arg(QCoreApplication::applicationVersion()));
}

}  // namespace

HelpDialog::HelpDialog(QWidget* parent) : QDialog(parent)
{
    setObjectName(u"helpDialog"_s);
    setWindowTitle(tr("Help"));
    resize(560, 620);
    m_text = new QTextBrowser(this);
    m_text->setObjectName(u"helpText"_s);
    m_text->setOpenLinks(false);
    connect(m_text, &QTextBrowser::anchorClicked, this, [this](const QUrl& link) {
        if (link.scheme() == "example"_L1)
            Q_EMIT exampleTaken(
                QUrl::fromPercentEncoding(link.path(QUrl::FullyEncoded).toLatin1()));
    });
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    auto* column = new QVBoxLayout(this);
    column->addWidget(m_text, 1);
    column->addWidget(buttons);
}

void HelpDialog::show(const sheet::Kind* kind, const sheet::Document& document)
{
    m_text->document()->setDefaultStyleSheet(
        u"a { color: %1; text-decoration: none; }"_s.arg(theme().plum.name()));
    m_text->setHtml((kind ? aboutKind(*kind) : aboutSheet(document)) + keys() + about());
    QDialog::show();
    raise();
    activateWindow();
}

}  // namespace yh::app
