#include "desk/stages/report_pages.h"

#include <QScrollBar>
#include <QTimer>

namespace cvane::desk {

ReportPages::ReportPages(QWidget* parent) : QPdfView(parent), document_(new QPdfDocument(this)) {
    setObjectName("reportPages");
    setAccessibleName(tr("Pages of the report"));
    setPageMode(QPdfView::PageMode::MultiPage);
    setZoomMode(QPdfView::ZoomMode::FitToWidth);
    setDocument(document_);
}

// A document tells its view of its end, which is half gone when children go by themselves.
ReportPages::~ReportPages() {
    setDocument(nullptr);
    delete document_;
}

bool ReportPages::open(const QString& file) {
    const int place = verticalScrollBar()->value();
    document_->close();
    if (document_->load(file) != QPdfDocument::Error::None) return false;
    // Once the pages have been laid out.
    QTimer::singleShot(0, this, [this, place] { verticalScrollBar()->setValue(place); });
    return true;
}

}  // namespace cvane::desk
