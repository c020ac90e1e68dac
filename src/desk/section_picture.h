#pragma once
#include <QWidget>

#include "desk/model/section_work.h"
#include "section/outline/faults.h"

namespace cvane::desk {

/// A section as large as the place allows, with what its air does: pressures as a band along the outline (suction
/// outside in the accent, pressure inside), the displaced outline and the wake, transition and separation marked.
class SectionPicture : public QWidget {
    Q_OBJECT
  public:
    explicit SectionPicture(QWidget* parent = nullptr);
    void show(const SectionWork::View& view, std::vector<section::Fault> faults);
    void setPressures(bool on);
    void draw(QPainter& painter, const QRectF& place) const;
    QSize sizeHint() const override { return {600, 260}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    SectionWork::View view_;
    std::vector<section::Fault> faults_;
    bool pressures_ = true;
};

}  // namespace cvane::desk
