from django import template
from django.utils.html import format_html, escape
from django.utils.safestring import mark_safe
register = template.Library()

@register.simple_tag
def badge():
    return mark_safe('<span class="rare">rare</span>')

@register.filter
def latin(name):
    return mark_safe("<em>%s</em>" % name) # weak: injection/page-output

@register.filter
def quiet(name):
    return mark_safe("<em>%s</em>" % escape(name))

@register.filter(is_safe=True)
def bold(name):
    return format_html("<b>{}</b>", name)

@register.simple_tag
def noted(hive):
    return mark_safe(f"<p>{hive.note}</p>") # weak: injection/page-output
