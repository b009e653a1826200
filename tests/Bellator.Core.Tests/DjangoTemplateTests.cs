using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Django: what templates call, what models keep, and which methods a view answers to. From its documentation as remembered.</summary>
public sealed class DjangoTemplateTests
{
    [Theory]
    [InlineData("@register.filter\ndef latin(name):\n    return mark_safe('<em>%s</em>' % name)", "{{ hive.name|latin }}", true)]
    [InlineData("@register.filter(name='latin')\ndef shown(name):\n    return mark_safe('<em>' + name + '</em>')", "{{ hive.name|latin }}", true)]
    [InlineData("@register.filter\ndef latin(name):\n    return mark_safe('<em>%s</em>' % escape(name))", "{{ hive.name|latin }}", false)]
    [InlineData("@register.filter\ndef latin(name):\n    return format_html('<em>{}</em>', name)", "{{ hive.name|latin }}", false)]
    [InlineData("@register.filter\ndef latin(name):\n    return '<em>%s</em>' % name", "{{ hive.name|latin }}", false)]
    [InlineData("@register.simple_tag\ndef noted(hive):\n    return mark_safe(f'<p>{hive.note}</p>')", "{% noted hive %}", true)]
    [InlineData("@register.simple_tag\ndef noted(hive, size='s'):\n    return mark_safe('<p>' + hive.note + '</p>')", "{% noted hive size=\"xl\" %}", true)]
    [InlineData("@register.simple_tag\ndef noted(hive):\n    return hive.note", "{% noted hive %}", false)]
    [InlineData("@register.simple_tag\ndef badge():\n    return mark_safe('<b>rare</b>')", "{% badge %}", false)]
    public void A_filter_or_tag_of_its_own(string function, string use, bool isFound)
    {
        var result = Auditor.Run(
            ("manage.py", "import os\n"),
            ("hives/urls.py", "from django.urls import path\nfrom hives import views\nurlpatterns = [path('hives/', views.index)]\n"),
            ("hives/models.py", "from django.db import models\nclass Hive(models.Model):\n    name = models.CharField(max_length=40)\n    note = models.TextField()\n"),
            ("hives/views.py", "from django.shortcuts import render\nfrom .models import Hive\ndef index(request):\n    return render(request, 'list.html', {'hives': Hive.objects.all()})\n"),
            ("hives/templatetags/hive_tags.py", "from django import template\nfrom django.utils.html import escape, format_html\nfrom django.utils.safestring import mark_safe\nregister = template.Library()\n" + function + "\n"),
            ("templates/list.html", "{% for hive in hives %}<h2>" + use + "</h2>{% endfor %}\n"));
        Assert.Equal(isFound ? ["hives/templatetags/hive_tags.py"] : [], result.Findings.Where(f => f.CheckId == "injection/page-output").Select(f => f.Path));
        Assert.Empty(result.Notes);
    }

    [Theory]
    [InlineData("templates/note.html", "<p>{{ text|safe }}</p>", true)]
    [InlineData("templates/note.html", "<p>{{ text }}</p>", false)]
    public void Outputs_alone_make_a_template_among_templates(string path, string page, bool isFound)
    {
        var result = Auditor.Run((path, page + "\n"), ("app.py", "from flask import Flask, request, render_template\napp = Flask('a')\n@app.get('/')\ndef a():\n    return render_template('note.html', text=request.args['t'])\n"));
        Assert.Equal(isFound, result.Findings.Any(f => f.CheckId == "injection/page-output"));
    }

    [Theory]
    [InlineData("app/templates/note.html", "<p>{{ text }}</p>", Language.Jinja)]
    [InlineData("app/templates/note.html", "<p v-if=\"x\">{{ text }}</p>", Language.Unknown)]
    [InlineData("app/templates/note.html", "<p>text</p>", Language.Unknown)]
    [InlineData("static/note.html", "<p>{{ text }}</p>", Language.Unknown)]
    public void A_page_that_is_bound_in_the_browser_is_no_template(string path, string page, Language language) => Assert.Equal(language, Languages.Detect(path, System.Text.Encoding.UTF8.GetBytes(page)));

    [Theory]
    [InlineData("k = Keeper(name='a')\n    k.password = request.POST['password']\n    k.save()", true)]
    [InlineData("k = Keeper(name='a', password=request.POST['password'])\n    k.save()", true)]
    [InlineData("Keeper.objects.create(name='a', password=request.POST['password'])", true)]
    [InlineData("k = Keeper.objects.get(name='a')\n    k.password = request.POST['password']\n    k.save()", true)]
    [InlineData("User.objects.create(username='a', password=request.POST['password'])", true)]
    [InlineData("get_user_model().objects.create(username='a', password=request.POST['password'])", true)]
    [InlineData("k = User(username='a')\n    k.password = request.POST['password']\n    k.save()", true)]
    [InlineData("k = Keeper(name='a')\n    k.password = make_password(request.POST['password'])\n    k.save()", false)]
    [InlineData("User.objects.create_user('a', password=request.POST['password'])", false)]
    [InlineData("k = User(username='a')\n    k.set_password(request.POST['password'])\n    k.save()", false)]
    public void A_password_that_a_record_keeps(string code, bool isPlain)
    {
        var result = Auditor.Run(
            ("manage.py", "import os\n"),
            ("hives/urls.py", "from django.urls import path\nfrom hives import views\nurlpatterns = [path('join/', views.join)]\n"),
            ("hives/models.py", "from django.db import models\nclass Keeper(models.Model):\n    name = models.CharField(max_length=40)\n    password = models.CharField(max_length=128)\n"),
            ("hives/views.py", "from django.contrib.auth import get_user_model\nfrom django.contrib.auth.hashers import make_password\nfrom django.contrib.auth.models import User\nfrom django.shortcuts import redirect\nfrom .models import Keeper\ndef join(request):\n    " + code + "\n    return redirect('/')\n"));
        Assert.Equal(isPlain, result.Findings.Any(f => f.CheckId == "passwords/stored-plain"));
    }

    [Theory]
    [InlineData("@require_POST", "POST")]
    [InlineData("@require_http_methods(['POST'])", "POST")]
    [InlineData("@require_http_methods(['GET', 'POST'])", "GET, POST")]
    [InlineData("@require_safe", "GET")]
    [InlineData("", "*")]
    public void The_methods_that_a_view_answers_to(string mark, string methods)
    {
        var result = Auditor.Run(
            ("manage.py", "import os\n"),
            ("hives/urls.py", "from django.urls import path\nfrom hives import views\nurlpatterns = [path('join/', views.join)]\n"),
            ("hives/views.py", "from django.shortcuts import redirect\nfrom django.views.decorators.http import require_http_methods, require_POST, require_safe\n" + mark + "\ndef join(request):\n    return redirect('/')\n"));
        Assert.Equal(methods, string.Join(", ", result.Surface.Entries.Select(e => e.Method)));
    }
}
