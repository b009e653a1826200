import os

SECRET_KEY = os.environ["REGISTER_SECRET"]
DEBUG = False
INSTALLED_APPS = ["django.contrib.auth", "django.contrib.sessions", "rest_framework", "register"]
AUTH_USER_MODEL = "register.Keeper"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
REST_FRAMEWORK = {
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
}
