import os
SECRET_KEY = os.environ["SECRET_KEY"]
INSTALLED_APPS = ["django.contrib.auth", "django.contrib.sessions", "hives"]
MIDDLEWARE = ["django.contrib.sessions.middleware.SessionMiddleware", "django.middleware.csrf.CsrfViewMiddleware", "django.contrib.auth.middleware.AuthenticationMiddleware"]
ROOT_URLCONF = "site1.urls"
SESSION_COOKIE_SECURE = True
