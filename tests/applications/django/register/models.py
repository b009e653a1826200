from django.contrib.auth.models import AbstractUser
from django.db import models


class Keeper(AbstractUser):
    district = models.CharField(max_length=60, blank=True)
    phone = models.CharField(max_length=30, blank=True)
    is_office = models.BooleanField(default=False)


class Hive(models.Model):
    keeper = models.ForeignKey(Keeper, on_delete=models.CASCADE, related_name="hives")
    name = models.CharField(max_length=80)
    frames = models.PositiveSmallIntegerField(default=10)

    class Meta:
        db_table = "hives"


class Swarm(models.Model):
    place = models.CharField(max_length=120)
    seen_on = models.DateField()

    class Meta:
        db_table = "swarms"
