#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>
#include <array>

#include "desk/model/wing_work.h"
#include "desk/stages/stage.h"
#include "desk/stages/wing/body_sheet.h"
#include "desk/stages/wing/controls_sheet.h"
#include "desk/stages/wing/loading_view.h"
#include "desk/stages/wing/planform_view.h"
#include "desk/stages/wing/propeller_sheet.h"

class QDoubleSpinBox;
class QSpinBox;

namespace cvane::desk {

/// A wing, or a whole aircraft, from its stations: a table and two views that are always in step, what it measures, and
/// at once what the lifting surface says of it.
class WingStage : public Stage {
    Q_OBJECT
  public:
    WingStage(Document& document, Middle& middle);
    QString title() const override { return "Wing"; }
    QChar ownKey() const override { return u'G'; }  // the others keep theirs
    Group group() const override { return Group::Shape; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    bool draws() const override { return hasAircraft() && looking_->inSpace(); }
    void showScene(bool on) override;
    /// A wing to begin with, as this campaign's model.
    void build();
    const WingWork& work() const { return work_; }
    LoadingView& looking() { return *looking_; }
    /// All angles, and all strips, as XLSX, or the angles as CSV by the name's end.
    void saveTable(const QString& file);

  private:
    void makeBuild();
    void makeSurface();
    void makeFlight();
    void makePage();
    void fill();
    void fillSurface();
    void fillStations();
    void fillMeasures();
    void plot();
    void plotPolar();
    void plotSpan();
    void plotField(std::size_t x, std::size_t y);
    void chooseOnPolar(const QPointF& pixel);
    void showAngle();
    void ask();
    lifting::Asked asked() const;
    /// Further loadings that are typed; none where none is. Throws InputError.
    std::vector<lifting::Loading> loadings(const lifting::Asked& asked) const;
    /// The angles of all loadings, as CSV.
    std::string table() const;
    /// The aircraft with a change, as one step of undo.
    void changeAircraft(const QString& intent, const std::function<void(wing::Aircraft&)>& edit);
    void changeSurface(const QString& intent, const std::function<void(wing::LiftingSurface&)>& edit);
    void stationTyped(int row, int column, const QString& text);
    void schedule(double alpha_deg);
    void insertStation();
    void removeStation();
    void addSurface(int kind);
    void bringFile();
    void writeFile();
    void exportTable();
    bool hasAircraft() const;
    const wing::Aircraft& aircraft() const { return *document_.settings().model.aircraft; }

    WingWork work_;
    QWidget *page_ = nullptr, *building_ = nullptr;
    PlanformView* view_ = nullptr;
    Plot *polar_ = nullptr, *span_ = nullptr;
    std::array<QComboBox*, 3> axes_{};  ///< of the polar over and up, and along the span
    LoadingView* looking_ = nullptr;
    QLabel *measures_ = nullptr, *says_ = nullptr, *stability_ = nullptr;
    QLabel *placeLabel_ = nullptr, *gravityLabel_ = nullptr;
    QPushButton* build_ = nullptr;
    QComboBox *surfaces_ = nullptr, *trim_ = nullptr;
    CellTable* stations_ = nullptr;
    ControlsSheet* controls_ = nullptr;
    BodySheet* bodies_ = nullptr;
    PropellerSheet* propellers_ = nullptr;
    QDoubleSpinBox *halfSpan_ = nullptr, *incidence_ = nullptr, *roll_ = nullptr, *mass_ = nullptr, *speed_ = nullptr;
    std::array<QDoubleSpinBox*, 3> place_{}, gravity_{};
    QSpinBox* rows_ = nullptr;
    QCheckBox *mirrored_ = nullptr, *roundTip_ = nullptr, *level_ = nullptr, *stall_ = nullptr, *elastic_ = nullptr,
              *rolled_ = nullptr;
    QLineEdit *alphas_ = nullptr, *masses_ = nullptr, *centres_ = nullptr;
    QPointF pressed_;  ///< on the polar
    std::size_t surface_ = 0;
    bool filling_ = false;
};

}  // namespace cvane::desk
