#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <QSet>
#include <QSlider>
#include <QTableWidget>
#include <QTreeWidget>
#include <array>

#include "campaign/store/section_tables.h"
#include "desk/model/section_work.h"
#include "desk/section_picture.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// "800 k", "1.5 M".
QString reynoldsText(double reynolds);

/// The campaign's sections, their polars, and the flow about one of them.
class SectionsStage : public Stage {
    Q_OBJECT
  public:
    SectionsStage(Document& document, Middle& middle);
    QString title() const override { return "Sections"; }
    Group group() const override { return Group::Shape; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    bool draws() const override { return false; }
    /// Brings a file of coordinates or a code in, as dropping the file does.
    void bring(const QString& fileOrCode);
    SectionWork& work() { return work_; }
    /// The left plot under this name, the right one beside it with "-right"; as PDF or SVG by the name's end.
    void savePlots(const QString& file);
    /// All points of all curves, as CSV or XLSX by the name's end.
    void saveTable(const QString& file);

  private:
    void makeList();
    void makeChosen();
    void makePolars();
    void makeField();
    void makePage();
    void fillList();
    void fillChosen();
    void fillReadings();
    void plotPolars();
    /// One plot of the curves; x and y are indices of what polars can show.
    void plotPair(Plot& to, std::size_t x, std::size_t y);
    /// Lines that show what is read out of the chosen section's polar.
    void drawReadings(Plot& to, const QString& x, const QString& y);
    /// One plot along the chord at the picture's angle.
    void plotAlong(Plot& to, std::size_t what);
    void fillLegend();
    QString nameOf(const SectionWork::Curve& curve) const;
    /// Between polars and what runs along the chord.
    void arrange(bool alongChord, std::array<int, 4> axes);
    void lookAtAngle();
    void changeChosen(const QString& intent, const std::function<void(campaign::SectionEntry&)>& edit);
    const campaign::SectionEntry* chosen() const;
    void mend();
    void writeOut();
    void copyTable();
    void exportTable();
    void exportPlots();
    void addReference();
    std::vector<campaign::PolarRows> polarRows() const;
    std::string tableText() const;

    SectionWork work_;
    QWidget* page_ = nullptr;
    SectionPicture* picture_ = nullptr;
    QSlider* angle_ = nullptr;
    QLabel* angleWords_ = nullptr;
    QComboBox* reynolds_ = nullptr;
    Plot *left_ = nullptr, *right_ = nullptr;
    QComboBox* axes_[4] = {};
    QLabel* cursor_ = nullptr;
    QHBoxLayout* legend_ = nullptr;
    QStringList legendNames_;
    QSet<QString> off_;  ///< curves that are switched off
    QTreeWidget* list_ = nullptr;
    QLineEdit* code_ = nullptr;
    QLabel *figures_ = nullptr, *faults_ = nullptr, *progress_ = nullptr;
    QPushButton *mend_ = nullptr, *stop_ = nullptr;
    QDoubleSpinBox *thickness_ = nullptr, *camber_ = nullptr, *hinge_ = nullptr, *flap_ = nullptr;
    QDoubleSpinBox *thicknessAt_ = nullptr, *camberAt_ = nullptr, *nose_ = nullptr;
    QLabel* fieldWords_ = nullptr;
    QPushButton* solve_ = nullptr;
    QCheckBox *grid_ = nullptr, *byHand_ = nullptr;
    bool alongChord_ = false;
    campaign::SectionSettings listed_;  ///< what the list was filled from
    QTableWidget* readings_ = nullptr;
    std::vector<section::Fault> foundFaults_;
    /// Published data laid under the curves: name, and x and y as the file has them.
    struct Reference {
        QString name;
        std::vector<double> x, y;
    };
    std::vector<Reference> references_;
    std::string chosen_;
    bool filling_ = false;
};

}  // namespace cvane::desk
