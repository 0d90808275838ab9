"""Paper: quotes and job sheets as PDF, with the product's own fonts."""

from eager_ear.paper.job_sheet import job_sheet_pdf
from eager_ear.paper.quote import QuoteFacts, quote_pdf
from eager_ear.paper.sheet import Size

__all__ = ["QuoteFacts", "Size", "job_sheet_pdf", "quote_pdf"]
