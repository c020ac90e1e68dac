#pragma once
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>

#include "desk/model/job.h"
#include "desk/stages/report_pages.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// Tables and pictures out of the program, and a report: which sections in which order, with what is said in each.
class ReportStage : public Stage {
    Q_OBJECT
  public:
    ReportStage(Document& document, Middle& middle);
    QString title() const override { return "Report"; }
    Group group() const override { return Group::Reading; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    ~ReportStage() override;
    /// Writes the report away from the window's thread.
    void writeReport(const QString& file);
    bool writing() const { return job_.running(); }

  private:
    struct Told {
        QString text;
        bool written = false;
    };
    /// Writes a report, telling what it is at. Away from the window's thread.
    Told write(const QString& file, const std::string& campaign, const Job<Told>::Wanted& wanted);
    void preview();
    void makePlan();
    void readPlan();  ///< from the campaign's folder
    void keepPlan();  ///< into it
    void showText();

    QLabel *words_, *said_;
    QListWidget* sections_;
    QLineEdit* title_;
    QPlainTextEdit* text_;
    QPushButton *write_, *stop_;
    QThreadPool pool_;
    Job<Told> job_{*this, pool_}, previewJob_{*this, pool_};
    ReportPages* pages_;
    QTemporaryDir scratch_;
    QTimer soon_;            ///< until the pages are made anew
    int previewNumber_ = 0;  ///< of the file in scratch_
    bool stale_ = true;      ///< the pages are not those of the plan as it stands
    bool filling_ = false;
};

}  // namespace cvane::desk
