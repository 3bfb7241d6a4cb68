"""Addresses of the Record station."""

from django.urls import path

from brightcircuit.record import money_views, views

urlpatterns = [
    path("", views.record_page, name="record"),
    path("rider/", views.rider_page, name="record-rider"),
    path("sheet.pdf", views.sheet_pdf, name="record-pdf"),
    path("rider.pdf", views.rider_pdf, name="record-rider-pdf"),
    path("quote/", money_views.quote_page, name="record-quote"),
    path("costs/", money_views.costs_page, name="record-costs"),
    path("quote.pdf", money_views.quote_pdf, name="record-quote-pdf"),
    path("bill.pdf", money_views.bill_pdf, name="record-bill-pdf"),
    path("job.json", views.job_file, name="record-job"),
    path("readings.csv", views.readings_csv, name="record-csv"),
    path("line.svg", views.line_file, name="record-line"),
]
