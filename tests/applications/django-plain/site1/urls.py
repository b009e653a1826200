from django.urls import path
from hives import views
urlpatterns = [
    path("join/", views.join, name="join"),
    path("join2/", views.join_well),
    path("hives/", views.hive_list),
    path("hives/<int:pk>/", views.hive),
    path("hives/<int:pk>/edit/", views.edit),
    path("grant/", views.grant),
    path("hives/<int:pk>/remove/", views.remove),
]
