using Bellator.Analysis.Domain;
using Bellator.Analysis.Html;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Syntax.Parsing;
using Bellator.Syntax.Templates;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Python, Ruby and C# through their readers, and templates as their hosts' code.</summary>
public sealed class LanguageTests
{
    [Theory]
    [InlineData("a.py", "import os.path as p, sys\nfrom . import b as c\nfrom ..d.e import (f, g as h)\nfrom x import *\n")]
    [InlineData("a.py", "@dec(1)\n@other\nasync def f(a, b: int = 1, *args: str, c=None, **kw) -> Optional[X]:\n    global g\n    async with o(a) as (p, q), r:\n        async for i, (j, *k) in s:\n            yield await t\n        else:\n            return\n")]
    [InlineData("a.py", "class A(B, metaclass=M):\n    x: int = 1\n    class Meta:\n        y = 2\n    @property\n    def z(self): return self.x\n    @staticmethod\n    def s(a): pass\n    def __init__(self): super().__init__(); self.n = [*a, *b]\n")]
    [InlineData("a.py", "try:\n    raise E from e\nexcept (A, B) as e:\n    pass\nexcept C:\n    raise\nelse:\n    del a[0], b.c\nfinally:\n    assert x, 'no'\nwhile (n := f()) is not None and 0 < n <= 10 or m not in s:\n    continue\n")]
    [InlineData("a.py", "x = [a for b in c if d for e in f]\ny = {k: v for k, v in i.items()}\nz = {*s, 1}\nw = (q for q in r)\nt = lambda u, *v: u if v else -w ** 2 // 3 @ m\nf'{a!r:>{b}} {{}}' 'x' rb'\\d'\nl[1:2, ::3, ...]\nprint(*a, **b, sep='')\n")]
    [InlineData("a.py", "match p:\n    case 'a' | 'b':\n        pass\n    case Point(x=0) if y:\n        pass\n    case [a, *b]:\n        pass\n    case {'k': v, **r}:\n        pass\n    case _:\n        pass\ntype T = int\n")]
    [InlineData("a.rb", "class A::B < C\n  include D\n  attr_reader :e, :f\n  G = %w[a b].freeze\n  class << self\n    def h; end\n  end\n  def self.i(j, k = 1, *l, m:, n: 2, **o, &p) = j\n  private\n  def q!; @r ||= super; end\n  alias_method :s, :t\nend\nmodule U; module_function; end\n")]
    [InlineData("a.rb", "begin\n  x = y rescue z\nrescue A, B => e\n  retry\nelse\n  1\nensure\n  2\nend\nunless a then b else c end\nputs d if e and not f\ng until h\nfor i, j in k do next if l; break end\ncase m when 1..2, *n then o else p end\n")]
    [InlineData("a.rb", "a, (b, *c), d = *e, f\ng&.h { |i, (j, k), l = 1, *m, n:, **o| p i; yield q }\nr = ->(s, t = 1) { s <=> t }\nu[1..-1] += \"a#{b}c\\n\" 'd' %q(e) :\"f#{g}\" /h#{i}/mx `j`\nv = <<~A + <<-'B'\n  w #{x}\nA\n  y\nB\nz = { a: 1, 'b' => 2, \"c\": 3, **d, e: }\n")]
    [InlineData("a.rb", "case [1, { a: }]\nin [Integer => x, { a: String }] if x > 1 then y\nin {b:} | nil then z\nend\ndef m(...) = n(...)\nBEGIN { }\n__method__\nx = if a then b end\ny = begin; c; end while d\n")]
    [InlineData("a.cs", "using A = B.C; using static D; [assembly: E] namespace F.G; public abstract partial record class H<T>(int I, [J] string K = \"\") : L<T>(I), IM where T : class, new() { public required int N { get; private set => field = value; } public int this[int i] => i; static H() { } ~H() { } public static implicit operator int(H<T> h) => 0; event EventHandler? O; const int P = 1, Q = 2; delegate void R(); enum S { U = 1, V } }")]
    [InlineData("a.cs", "var a = new Dictionary<string, int> { [\"b\"] = 1, { \"c\", 2 } }; int[] d = [1, ..e]; var (f, g) = (1, h: 2); foreach (var (i, j) in k) { if (i is not null and { L: > 1 } m) continue; } for (int n = 0, o = 1; n < o; n++, o--) { } using var p = q; lock (r) { } await foreach (var s in t) { yield return s; } goto end; end: ; checked { } unsafe { } fixed (int* u = v) { }")]
    [InlineData("a.cs", "try { throw new A() { B = 1 }; } catch (C d) when (d.E) { throw; } finally { } switch (f) { case 1: case int g when g > 1: break; case null: default: goto case 1; } var h = i switch { (1, _) => 2, [var j, ..] => 3, K.L or M => 4, { N: 1 } => throw new(), _ => default(int) }; var o = from p in q join r in s on p equals r into t let u = p where u > 1 orderby u descending group p by u into v select new { v.Key, W = 1 };")]
    [InlineData("a.cs", "var a = $\"b{c,3:x}{{d}}\"; var e = @\"f\"\"g\"; var h = \"\"\"i\"\"\"; var j = $@\"k{l}\"; Func<int, int> m = static (n) => { int o(int p) => p; return o(n); }; q?.r?[0]?.s!.t(out var u, ref v, in w, named: x); y ??= z as A; u(typeof(B), nameof(C.D), sizeof(int), default, stackalloc int[1], e => e, delegate (int f) { }, ^1..2, (int)g, h with { I = 1 }, -k, m is N o && !p); await j; l--;\n#if X\n#endif\n#region Y\n#endregion\n")]
    public void Real_constructs_are_modelled(string path, string code)
    {
        var unit = Auditor.Read(path, code);
        Assert.True(unit.OpaqueCount <= 2, string.Join(", ", unit.OpaqueKinds.Keys));
        Assert.NotEmpty(Lowering.Lower(unit).Functions);
    }

    [Fact]
    public void A_method_of_python_knows_its_object()
    {
        var file = Auditor.Lower("a.py", "class A:\n    def __init__(me, x):\n        me.x = x\n    @classmethod\n    def make(cls): return cls(1)\n    def get(self):\n        def inner(): return self.x\n        return inner()\n");
        var type = Assert.Single(file.Classes);
        Assert.Equal(["x"], type.Methods["constructor"].Parameters.Select(p => p.Name));
        Assert.Contains(type.Methods["constructor"].Instructions, i => i is { Op: Opcode.SetField, Text: "x" });
        Assert.Empty(type.Methods["get"].Parameters);
        Assert.Contains(file.Functions.Single(f => f.Name == "inner").Instructions, i => i.Op == Opcode.This);
    }

    [Fact]
    public void Names_of_python_belong_to_the_function_that_assigns_them()
    {
        // The inner a is its own; b is the outer one, by its declaration.
        var file = Auditor.Lower("a.py", "a = 1\nb = 2\ndef f():\n    global b\n    a = 3\n    b = 4\n    g(a)\nh(b)\n");
        var inner = file.Functions.Single(f => f.Name == "f");
        var call = inner.Instructions.First(i => i.Op == Opcode.Call);
        Assert.Equal("3", inner.Instructions[inner.List(call)[0].Value].Text);
        Assert.Contains(inner.Instructions, i => i.Op == Opcode.StoreCell);
    }

    [Fact]
    public void What_ruby_evaluates_last_is_returned()
    {
        var file = Auditor.Lower("a.rb", "def f(a)\n  if a\n    b(a)\n  else\n    2\n  end\nend\ndef g = 3\n");
        Assert.Equal(2, file.Functions.Single(f => f.Name == "f").Instructions.Count(i => i.Op == Opcode.Return));
        Assert.Single(file.Functions.Single(f => f.Name == "g").Instructions, i => i.Op == Opcode.Return);
    }

    [Fact]
    public void A_bare_name_in_ruby_is_a_variable_or_a_call()
    {
        var f = Auditor.Lower("a.rb", "def f\n  x = 1\n  y(x, params)\nend\n").Functions.Single(g => g.Name == "f");
        Assert.Contains(f.Instructions, i => i is { Op: Opcode.CallMethod, Text: "params" });
        Assert.DoesNotContain(f.Instructions, i => i is { Op: Opcode.CallMethod, Text: "x" });
    }

    [Fact]
    public void Partial_classes_and_properties_of_csharp_are_put_together()
    {
        var tree = Auditor.Tree(("a.cs", "namespace N; partial class A { public string X => Y + \"!\"; }"), ("b.cs", "namespace N; partial class A { private string Y { get; set; } = \"y\"; void M(out int z) { if (int.TryParse(Y, out var n)) { z = n; } } }"));
        var files = tree.Files.Select(f => Auditor.Lower(f.Path, System.Text.Encoding.UTF8.GetString(f.Content))).ToList();
        var program = ProgramModel.Build(tree, files);
        var type = program.FindClass("A", files[0])!;
        Assert.Equal(["X", "Y"], type.Fields.Select(f => f.Name));
        Assert.NotNull(program.FindMethod(type, "M"));
        Assert.All(program.Classes, c => Assert.Same(type, c.Primary));
    }

    [Theory]
    [InlineData("a.erb", "<p><%= a %></p><%# no %><% b do |c| %><%== d -%><% end %>", "a", "b do |c|", "raw( d")]
    [InlineData("a.ejs", "<p><%= a %></p><% if (b) { %><%- c %><% } %>", "a", "if (b) {", "$$( c")]
    [InlineData("a.jinja", "<p>{{ a|upper }}</p>{# no #}{% for b in c.d %}{{ b }}{% endfor %}", "a|upper", "b := c.d", "b")]
    [InlineData("a.blade.php", "<html>{{ $a }} {!! $b !!} @foreach ($c as $d) x @endforeach", "$a", "_r( $b", "foreach ($c as $d):")]
    [InlineData("a.cshtml", "@model X\n<p>@Model.A(1)</p>\n@if (b) {\n  <i>@c</i>\n}\n@{ var d = 1; }", "Model.A(1)", "if (b)", "var d = 1;")]
    [InlineData("a.hbs", "<p>{{a.b}}</p>{{#each c}}{{{ d }}}{{/each}}", "$(a.b);", "$$( d", "")]
    public void A_template_becomes_code_at_the_same_places(string path, string template, params string[] parts)
    {
        var original = Auditor.File(path, template);
        var hosted = TemplateCode.Hosted(original);
        var code = System.Text.Encoding.UTF8.GetString(hosted.Content);
        Assert.Equal(template.Length, code.Length);
        Assert.DoesNotContain("<p>", code, StringComparison.Ordinal);
        Assert.DoesNotContain("no", code, StringComparison.Ordinal);
        Assert.All(parts, p => Assert.Contains(p, code, StringComparison.Ordinal));
        using var parser = new SyntaxParser();
        using var tree = parser.Parse(hosted)!;
        Assert.Same(original, Reader.Read(tree, hosted, original).File);
    }

    [Theory]
    [InlineData("<p>", OutputContext.Html)]
    [InlineData("<a href=\"", OutputContext.Attribute)]
    [InlineData("<a href='x' title='", OutputContext.Attribute)]
    [InlineData("<a href=", OutputContext.Url)]
    [InlineData("<a href=\"x\">", OutputContext.Html)]
    [InlineData("<script>var a = '", OutputContext.Script)]
    [InlineData("<script>a</script>", OutputContext.Html)]
    [InlineData("<!-- <a href=\" -->", OutputContext.Html)]
    [InlineData("<style>b { c: ", OutputContext.Script)]
    public void A_page_tells_where_a_value_stands(string before, OutputContext position)
    {
        var page = new PageState();
        page = page.After(before);
        if (before.EndsWith('='))
        {
            page = page.AfterValue();
        }

        Assert.Equal(position, page.Position);
    }

    [Theory]
    [InlineData("x.py", Language.Python)]
    [InlineData("x.rb", Language.Ruby)]
    [InlineData("x.cs", Language.CSharp)]
    [InlineData("x.html.erb", Language.Erb)]
    [InlineData("x.blade.php", Language.Blade)]
    [InlineData("x.cshtml", Language.Razor)]
    [InlineData("x.hbs", Language.Handlebars)]
    [InlineData("x.html", Language.Unknown)]
    public void A_file_is_recognised_by_its_name(string path, Language language) => Assert.Equal(language, Languages.Detect(path, "text"u8));

    [Fact]
    public void A_page_with_signs_of_a_template_is_one() => Assert.Equal(Language.Jinja, Languages.Detect("x.html", "{% if a %}{{ b }}{% endif %}"u8));
}
