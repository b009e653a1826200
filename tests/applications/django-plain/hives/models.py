from django.contrib.auth.models import User
from django.db import models

class Hive(models.Model):
    keeper = models.ForeignKey(User, on_delete=models.CASCADE)
    name = models.CharField(max_length=40)
    note = models.TextField()
