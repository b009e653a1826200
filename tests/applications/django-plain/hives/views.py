from django.contrib.auth.decorators import login_required
from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404, redirect, render
from .models import Hive

def join(request):
    user = User(username=request.POST["username"], email=request.POST["email"])
    user.password = request.POST["password"]
    user.save() # weak: passwords/stored-plain
    return redirect("/")

def join_well(request):
    user = User(username=request.POST["username"])
    user.set_password(request.POST["password"]) # weak: passwords/weak-policy
    user.save()
    return redirect("/")

from django.contrib.auth import get_user_model
from django.views.decorators.http import require_POST

def grant(request):
    person = get_user_model().objects.get(pk=request.POST["id"])
    person.password = request.POST["password"]
    person.save() # weak: passwords/stored-plain
    return redirect("/")

@login_required
@require_POST
def remove(request, pk):
    get_object_or_404(Hive, pk=pk, keeper=request.user).delete()
    return redirect("/")

@login_required
def hive_list(request):
    hives = Hive.objects.filter(keeper=request.user).extra(where=["name LIKE '%%%s%%'" % request.GET["q"]]) # weak: injection/sql
    return render(request, "hives/list.html", {"hives": hives})

@login_required
def hive(request, pk):
    return render(request, "hives/one.html", {"hive": get_object_or_404(Hive, pk=pk)}) # weak: records/no-owner-condition

@login_required
def edit(request, pk):
    hive = get_object_or_404(Hive, pk=pk, keeper=request.user)
    hive.note = request.POST["note"]
    hive.save()
    return redirect("/")
