#pragma once
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <memory>

#include "desk/model/field_loader.h"
#include "desk/stages/outside_picker.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Pressures on the surface and along any number of planes, of the points that were picked, beside tables from
/// elsewhere; played through planes or points like a flip book.
class PressuresStage : public Stage {
    Q_OBJECT
  public:
    PressuresStage(Document& document, Middle& middle);
    QString title() const override { return "Pressures"; }
    Group group() const override { return Group::Reading; }
    QString keyFigure() const override;
    State state() const override;
    Need need() const override { return needOfResult(); }
    void show() override;
    bool takeTable(const QString& file) override;

  private:
    using Plane = campaign::PressurePlane;
    /// Cp of one point along one plane.
    struct Reading {
        QString name;
        readout::PressureStation station;
    };
    static constexpr const char* kAxes[] = {"x", "y", "z"};
    static QString wordsOf(const Plane& plane);
    void makePlanes();
    void makeReadings();
    std::vector<Plane> planes() const;  ///< those of the campaign; one through the middle where there are none
    Plane current() const;
    void changePlanes(const QString& intent, const std::vector<Plane>& next, int row);
    void addSeveral();
    void fillPlanes();
    void arrangeLoaders();
    std::vector<Reading> readings() const;
    void plot();
    void plotOutline(const readout::PressureStation& s);
    void plotOutside();
    void plotSonic(const std::vector<Reading>& all);
    void flip();
    void exportAll(const QString& file);

    FieldLoader loader_;
    std::vector<std::unique_ptr<FieldLoader>> beside_;  ///< of the points that were picked besides the selected one
    QComboBox *what_, *along_, *below_, *through_;
    OutsidePicker* outside_;
    QTableWidget* table_;
    QPushButton* play_;
    QTimer timer_;
    QLabel* words_;
    bool filling_ = false;
};

}  // namespace cvane::desk
