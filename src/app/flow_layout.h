// Widgets side by side, on as many rows as the width asks for.
#pragma once

#include <QLayout>
#include <QWidget>
#include <algorithm>
#include <vector>

namespace yh::app {

class FlowLayout : public QLayout
{
public:
    explicit FlowLayout(QWidget* parent) : QLayout(parent) {}
    ~FlowLayout() override
    {
        for (QLayoutItem* i : m_items)
            delete i;
    }
    void addItem(QLayoutItem* item) override { m_items.push_back(item); }
    int count() const override { return int(m_items.size()); }
    QLayoutItem* itemAt(int i) const override
    {
        return i >= 0 && i < count() ? m_items[size_t(i)] : nullptr;
    }
    QLayoutItem* takeAt(int i) override
    {
        QLayoutItem* item = itemAt(i);
        if (item)
            m_items.erase(m_items.begin() + i);
        return item;
    }
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return place(QRect(0, 0, width, 0), false); }
    QSize minimumSize() const override
    {
        QSize s(0, 0);
        for (const QLayoutItem* i : m_items)
            if (!i->isEmpty())
                s = s.expandedTo(i->minimumSize());
        const QMargins m = contentsMargins();
        return s + QSize(m.left() + m.right(), m.top() + m.bottom());
    }
    QSize sizeHint() const override { return minimumSize(); }
    void setGeometry(const QRect& r) override
    {
        QLayout::setGeometry(r);
        place(r, true);
    }

private:
    int place(const QRect& r, bool apply) const
    {
        const QMargins m = contentsMargins();
        int x = r.x() + m.left(), y = r.y() + m.top(), row = 0;
        for (QLayoutItem* i : m_items) {
            if (i->isEmpty())
                continue;
            const QSize size = i->sizeHint();
            if (x > r.x() + m.left() && x + size.width() > r.right() - m.right()) {
                x = r.x() + m.left();
                y += row + spacing();
                row = 0;
            }
            if (apply)
                i->setGeometry(QRect(QPoint(x, y), size));
            x += size.width() + spacing();
            row = std::max(row, size.height());
        }
        return y + row + m.bottom() - r.y();
    }

    std::vector<QLayoutItem*> m_items;
};

}  // namespace yh::app
