#pragma once
#include <QLayout>
#include <vector>

namespace cvane::desk {

/// A row of widgets that goes on below where the window is too narrow for it.
class WrapLayout : public QLayout {
  public:
    explicit WrapLayout(int spacing, QWidget* parent = nullptr);
    ~WrapLayout() override;
    void addItem(QLayoutItem* item) override { items_.push_back(item); }
    /// Words and the field that they belong to stay together.
    void addTogether(std::initializer_list<QWidget*> widgets);
    int count() const override { return static_cast<int>(items_.size()); }
    QLayoutItem* itemAt(int i) const override;
    QLayoutItem* takeAt(int i) override;
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return arrange(QRect(0, 0, width, 0), false); }
    QSize sizeHint() const override;
    QSize minimumSize() const override;
    void setGeometry(const QRect& place) override;

  private:
    /// @return the height that it takes
    int arrange(const QRect& place, bool move) const;
    std::vector<QLayoutItem*> items_;
};

}  // namespace cvane::desk
