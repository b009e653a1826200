from django.contrib.auth import views as auth_views
from django.urls import include, path
from rest_framework.routers import DefaultRouter

from register import api, views

router = DefaultRouter()
router.register("hives", api.HiveViewSet, basename="hive")
router.register("swarms", api.SwarmViewSet, basename="swarm")

urlpatterns = [
    path("join/", views.join, name="join"),
    path("sign-in/", auth_views.LoginView.as_view(), name="login"),
    path("sign-out/", auth_views.LogoutView.as_view(), name="logout"),
    path("hives/", views.HiveList.as_view(), name="hives"),
    path("hives/search/", views.search, name="search"),
    path("hives/<int:pk>/edit/", views.HiveEdit.as_view(), name="hive-edit"),
    path("hives/<int:pk>/label/", views.label, name="label"),
    path("profile/", views.profile, name="profile"),
    path("api/", include(router.urls)),
]
