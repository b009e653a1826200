from django import forms
from django.contrib.auth.forms import UserCreationForm

from .models import Hive, Keeper


class JoinForm(UserCreationForm):
    class Meta:
        model = Keeper
        fields = ["username", "email"]


class HiveForm(forms.ModelForm):
    class Meta:
        model = Hive
        fields = ["name", "frames"]


class KeeperForm(forms.ModelForm):
    class Meta:
        model = Keeper
        fields = "__all__"  # weak: injection/mass-assignment
