import subprocess

from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.contrib.auth.mixins import LoginRequiredMixin
from django.db import connection
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.html import format_html
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.safestring import mark_safe
from django.views.generic import ListView, UpdateView

from .forms import HiveForm, JoinForm, KeeperForm
from .models import Hive


def join(request):
    form = JoinForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        keeper = form.save()
        login(request, keeper)
        return redirect("hives")
    return render(request, "register/join.html", {"form": form})


class HiveList(LoginRequiredMixin, ListView):
    model = Hive
    template_name = "register/hives.html"

    def get_queryset(self):
        return Hive.objects.filter(keeper=self.request.user, name__icontains=self.request.GET.get("part", ""))


class HiveEdit(LoginRequiredMixin, UpdateView):
    model = Hive
    form_class = HiveForm
    success_url = "/hives/"

    def get_queryset(self):
        return Hive.objects.filter(keeper=self.request.user)


@login_required
def search(request):
    part = request.GET.get("part", "")
    with connection.cursor() as cursor:
        cursor.execute("SELECT id, name FROM hives WHERE name LIKE '%%" + part + "%%'")  # weak: injection/sql
        rows = cursor.fetchall()
        cursor.execute("SELECT count(*) FROM hives WHERE name = %s", [part])
        count = cursor.fetchone()[0]
    newest = Hive.objects.raw("SELECT * FROM hives ORDER BY %s" % request.GET.get("by"))  # weak: injection/sql
    note = mark_safe("<p>hives like " + part + "</p>")  # weak: injection/page-output
    safe = format_html("<p>hives like {}</p>", part)
    return render(request, "register/found.html", {"rows": rows, "count": count, "newest": newest, "note": note, "safe": safe, "part": part})


@login_required
def label(request, pk):
    hive = get_object_or_404(Hive, pk=pk, keeper=request.user)
    subprocess.run("lp -d " + request.POST["printer"], shell=True)  # weak: injection/command
    subprocess.run(["lp", "-d", request.POST["printer"], str(hive.pk)])
    target = request.POST.get("next", "/hives/")
    if url_has_allowed_host_and_scheme(target, allowed_hosts={request.get_host()}):
        return redirect(target)
    return HttpResponse("labelled")


@login_required
def profile(request):
    form = KeeperForm(request.POST or None, instance=request.user)
    if form.is_valid():
        form.save()
        return redirect(request.GET.get("back", "/"))  # weak: injection/redirect
    return JsonResponse({"name": request.user.get_full_name()})
