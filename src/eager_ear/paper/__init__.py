"""Paper: quotes, job sheets, reports and labels as PDF, with the product's own fonts."""

from eager_ear.paper.job_sheet import job_sheet_pdf
from eager_ear.paper.quote import QuoteFacts, quote_pdf
from eager_ear.paper.report import ReportFacts, label_pdf, report_pdf
from eager_ear.paper.sheet import Size

__all__ = ["QuoteFacts", "ReportFacts", "Size", "job_sheet_pdf", "label_pdf", "quote_pdf", "report_pdf"]
