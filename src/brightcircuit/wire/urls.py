"""Addresses of the Wire station."""

from django.urls import path

from brightcircuit.wire import join_views, order_views, sheet_views, size_views, views

urlpatterns = [
    path("", views.wire_page, name="wire"),
    path("pins/", views.wire_page, {"page": "pins"}, name="wire-pins"),
    path("plugs/<str:part_id>.<str:port_id>/", views.plug_page, name="wire-plug"),
    path("first-power-up/", views.first_power_up_page, name="first-power-up"),
    path("fixes/", views.fixes_page, name="wire-fixes"),
    path("order/", order_views.order_page, name="wire-order"),
    path("joins/<slug:join_id>/", join_views.join_page, name="wire-join"),
    path("size/", size_views.size_page, name="wire-size"),
    path("routes/", join_views.routes_page, name="wire-routes"),
    path("sheet/", sheet_views.sheet_page, name="wire-sheet"),
    path("cards/", sheet_views.cards_page, name="wire-cards"),
    path("lists/", sheet_views.lists_page, name="wire-lists"),
    path("sheet.pdf", sheet_views.sheet_pdf, name="wire-pdf"),
    path("wiring.svg", sheet_views.wiring_svg, name="wire-drawing"),
    path("wiring.cir", sheet_views.wiring_spice, name="wire-spice"),
    path("plugs.svg", sheet_views.plugs_svg, name="wire-svg"),
    path("joins.csv", sheet_views.joins_csv, name="wire-csv"),
    path("cut-list.csv", sheet_views.cut_csv, name="wire-cuts"),
]
