"""All addresses with those of Weigh; loaded while its name is in `STATIONS`."""

from brightcircuit.urls import addresses

urlpatterns = addresses()
