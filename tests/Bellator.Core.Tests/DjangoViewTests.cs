namespace Bellator.Core.Tests;

/// <summary>
/// Views that a framework's base classes carry out, managers and query sets of a program's own, permissions that are asked of an object:
/// as Django's and REST framework's documentation describes them (from memory).
/// </summary>
public sealed class DjangoViewTests
{
    private const string Models = """
        from django.conf import settings
        from django.db import models
        from django.db.models import Q


        class HiveQuerySet(models.QuerySet):
            def for_user(self, user):
                return self.filter(keeper=user)

            def shared_with(self, user):
                return self.filter(Q(keeper_id=user.pk) | Q(district=user.district))

            def thriving(self):
                return self.filter(lost=False)


        class LogManager(models.Manager):
            def get_queryset(self):
                return super().get_queryset().filter(deleted=False)

            def of(self, user):
                return self.get_queryset().filter(hive__keeper_id=user.pk)


        class Hive(models.Model):
            keeper = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
            district = models.ForeignKey("districts.District", on_delete=models.CASCADE)
            place = models.TextField()
            lost = models.BooleanField(default=False)

            objects = HiveQuerySet.as_manager()


        class Log(models.Model):
            hive = models.ForeignKey(Hive, on_delete=models.CASCADE)
            text = models.TextField()
            deleted = models.BooleanField(default=False)

            objects = LogManager()
        """;

    private const string Head = """
        from django.contrib.auth.decorators import login_required
        from django.contrib.auth.mixins import LoginRequiredMixin
        from django.http import JsonResponse
        from django.shortcuts import get_object_or_404
        from django.views.generic import DeleteView, DetailView, ListView, UpdateView
        from rest_framework import generics, permissions, viewsets

        from .models import Hive, Log


        class OwnMixin:
            owner_field = "keeper"

            def get_queryset(self):
                return super().get_queryset().filter(**{self.owner_field: self.request.user})


        class IsKeeper(permissions.BasePermission):
            def has_permission(self, request, view):
                return bool(request.user and request.user.is_authenticated)

            def has_object_permission(self, request, view, obj):
                return obj.keeper == request.user


        class HiveOfMine(generics.RetrieveAPIView):
            permission_classes = [permissions.IsAuthenticated]

            def get_queryset(self):
                return Hive.objects.filter(keeper=self.request.user)


        @login_required
        def my_log(request, pk):
            return JsonResponse({"text": Log.objects.of(request.user).get(pk=pk).text})


        """;

    private static List<string> Findings(string view, string handler = "views.V.as_view()") => [.. Auditor.Run(
        ("register/models.py", Models),
        ("register/views.py", Head + view + "\n"),
        ("register/urls.py", $"from django.urls import path\nfrom . import views\nurlpatterns = [path(\"mine/<int:pk>/\", views.HiveOfMine.as_view()), path(\"log/<int:pk>/\", views.my_log), path(\"v/<int:pk>/\", {handler})]\n"))
        .Findings.Where(f => f.CheckId is "records/no-owner-condition" or "records/no-sign-in").Select(f => f.CheckId["records/".Length..])];

    [Theory]
    [InlineData("class V(LoginRequiredMixin, UpdateView):\n    model = Hive\n    fields = [\"place\"]")]
    [InlineData("class V(LoginRequiredMixin, DeleteView):\n    queryset = Hive.objects.all()")]
    [InlineData("class V(LoginRequiredMixin, DetailView):\n    def get_queryset(self):\n        return Hive.objects.thriving()")]
    [InlineData("class V(generics.RetrieveUpdateDestroyAPIView):\n    permission_classes = [permissions.IsAuthenticated]\n    queryset = Hive.objects.select_related(\"district\")")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.IsAuthenticated | IsKeeper]\n    queryset = Hive.objects.all()")]
    [InlineData("class V(generics.RetrieveAPIView, OwnMixin):\n    permission_classes = [permissions.IsAuthenticated]\n    queryset = Hive.objects.all()")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.IsAuthenticated, IsKeeper]\n\n    def get(self, request, pk):\n        return JsonResponse({\"place\": Hive.objects.get(pk=pk).place})")]
    [InlineData("class V(LoginRequiredMixin, DetailView):\n    model = Log")]
    public void Views_without_an_owner_condition(string view) => Assert.Equal(["no-owner-condition"], Findings(view).Distinct());

    [Theory]
    [InlineData("class V(DetailView, LoginRequiredMixin):\n    model = Hive")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.BasePermission]\n    queryset = Hive.objects.all()")]
    public void Views_without_sign_in(string view) => Assert.Contains("no-sign-in", Findings(view));

    [Theory]
    [InlineData("class V(LoginRequiredMixin, UpdateView):\n    model = Hive\n    fields = [\"place\"]\n\n    def get_queryset(self):\n        return super().get_queryset().filter(keeper=self.request.user)")]
    [InlineData("class V(LoginRequiredMixin, DeleteView):\n    model = Hive\n\n    def get_queryset(self):\n        return Hive.objects.for_user(self.request.user)")]
    [InlineData("class V(LoginRequiredMixin, OwnMixin, DetailView):\n    model = Hive")]
    [InlineData("class V(OwnMixin, viewsets.ModelViewSet):\n    permission_classes = [permissions.IsAuthenticated]\n    queryset = Hive.objects.all()", "views.V.as_view({\"get\": \"retrieve\"})")]
    [InlineData("class V(generics.RetrieveUpdateDestroyAPIView):\n    permission_classes = [permissions.IsAuthenticated, IsKeeper]\n    queryset = Hive.objects.all()")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.IsAuthenticated & IsKeeper]\n    queryset = Hive.objects.all()")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.IsAuthenticated]\n\n    def get_queryset(self):\n        return Hive.objects.shared_with(self.request.user)")]
    [InlineData("class V(generics.RetrieveAPIView):\n    permission_classes = [permissions.IsAuthenticated]\n\n    def get_object(self):\n        hive = get_object_or_404(Hive, pk=self.kwargs[\"pk\"])\n        self.check_object_permissions(self.request, hive)\n        return hive\n\n    def get_permissions(self):\n        return [IsKeeper()]")]
    [InlineData("class V(LoginRequiredMixin, DetailView):\n    def get_queryset(self):\n        return Log.objects.of(self.request.user)")]
    public void Views_that_limit_to_the_persons_own(string view, string handler = "views.V.as_view()") => Assert.Empty(Findings(view, handler));

    /// <summary>Methods that a class inherits are guarded by what stands at the class.</summary>
    [Fact]
    public void Inherited_actions_have_the_guards_of_their_class()
    {
        var entries = Auditor.Run(
            ("register/models.py", Models),
            ("register/views.py", Head + "class V(OwnMixin, viewsets.ModelViewSet):\n    permission_classes = [permissions.IsAuthenticated]\n    queryset = Hive.objects.all()\n"),
            ("register/urls.py", "from rest_framework.routers import SimpleRouter\nfrom . import views\nrouter = SimpleRouter()\nrouter.register(\"hives\", views.V)\nurlpatterns = router.urls\n")).About.Surface.Entries;
        Assert.Equal(6, entries.Count);
        Assert.All(entries, e => Assert.Equal("needed", e.SignIn));
    }

    [Theory]
    [InlineData("own | Hive.objects.filter(place=self.request.GET[\"place\"])", true)]
    [InlineData("own.filter(place=self.request.GET[\"place\"])", false)]
    [InlineData("own & Hive.objects.filter(place=self.request.GET[\"place\"])", false)]
    public void Sets_that_are_united(string rows, bool isWeak) => Assert.Equal(isWeak, Auditor.Run(
        ("register/models.py", Models),
        ("register/views.py", Head + "class V(LoginRequiredMixin, ListView):\n    def get_queryset(self):\n        own = Hive.objects.for_user(self.request.user)\n        return " + rows + "\n"),
        ("register/urls.py", "from django.urls import path\nfrom . import views\nurlpatterns = [path(\"mine/<int:pk>/\", views.HiveOfMine.as_view()), path(\"v/\", views.V.as_view())]\n"))
        .Findings.Any(f => f.CheckId == "records/condition-widened"));
}
