import os, sys
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "site1.settings")
