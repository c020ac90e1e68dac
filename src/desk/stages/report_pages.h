#pragma once
#include <QPdfDocument>
#include <QPdfView>

namespace cvane::desk {

/// The pages of a report as they will be printed.
class ReportPages : public QPdfView {
    Q_OBJECT
  public:
    explicit ReportPages(QWidget* parent = nullptr);
    ~ReportPages() override;
    /// Shows another file at the place where the one before was read. @return whether it could be read
    bool open(const QString& file);
    int pages() const { return document_->pageCount(); }

  private:
    QPdfDocument* document_;
};

}  // namespace cvane::desk
