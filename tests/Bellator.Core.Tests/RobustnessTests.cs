using System.Text;
using Bellator.Audit.Auditing;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;

namespace Bellator.Core.Tests;

/// <summary>No input, however broken, may stop an audit.</summary>
public sealed class RobustnessTests
{
    private static readonly string[] Seeds =
    [
        "<?php class A extends B { function f($a) { return \"SELECT {$a['x']} \" . $this->g(...$a) ?? fn() => 1; } } foreach ($x as [$a, $b]) { echo <<<E\n$a\nE; } match($x) { 1 => 2 }; ?> <b><?= $y ?>",
        "const { a, b: [c = 1] } = await import('x'); export default async function* f({ d }, ...e) { for (const g of h) { try { yield `x${d}`; } catch { continue; } } } class Q extends R { static #s = () => this; }",
        "import os\nfrom . import a as b\n@app.route('/x', methods=['GET'])\nasync def f(self, x: int = 1, *a, **k):\n    with open(f'{x!r:>{k}}') as g, h() as (i, j):\n        return [y for y in z if y not in q] or {**d, 'a': lambda: (yield)}\nclass C(D, metaclass=E):\n    x: int = 3\n    def m(self):\n        match self.x:\n            case 1 | 2: pass\n            case _: raise F from None\n",
        "class A::B < C\n  include D\n  before_action :e, only: %i[f g]\n  scope :h, ->(i) { where(\"a = #{i}\") }\n  def f(a, b = 1, *c, d: 2, **e, &g)\n    x ||= @y&.z { |q, (r, s)| q << r if s rescue nil }\n    case x when 1, 2 then return else <<~T\n      t #{x}\n    T\n    end\n    redirect_to(a) and return unless super\n  ensure\n    yield\n  end\nend\n",
        "namespace A.B; [C] public partial class D<T>(E f) : G, IH where T : class { [J] public string K { get => field; init; } public async Task<T?> L([M] int n = 1, params string[] o) { if (n is > 1 and < 5 or 7 && o is [var p, ..]) { await using var q = new R { S = $\"{n:x}{{}}\" }; return q?.U[0] ?? throw new(); } return n switch { 1 => default, _ => (from v in o where v != \"\" select v).First() as T }; } }",
        "<% @a.each do |b| %><p><%= raw b %></p><%== c %><% end %>",
        "@model A.B\n@{ var x = 1; }\n@if (x > 1) {\n  <p class=\"@x\">@Html.Raw(Model.C[0].D(\"e\"))</p>\n} else { <br/> }\n@foreach (var i in Model.F) { @i }\n",
        "<html>@if ($a)\n{!! $b['c'] !!} {{ $d ?? 'e' }}\n@foreach ($f as $g)\n{{ $g->h }}\n@endforeach\n@endif @php $i = 1; @endphp",
        "{% for a in b %}{{ a.c|default:'d'|safe }}{% endfor %}{% autoescape off %}{{ e }}{% endautoescape %}{% set f = g ~ h %}",
        "<template><div v-for=\"(a, b) in c.d\" :key=\"b\" v-html=\"a.e\" @click=\"f = $event\"><a :href='`${g}`'>{{ h | i }}</a><template #j><br/></template></div></template><script lang=\"ts\">export default { data() { return { k: this.l } } }</script><style>p { }</style>",
        "import type { A } from 'b'; @D() export class C<T extends U> { constructor(private x: Y<Z>) {} m = <K,>(k: K): k is K => k!; } enum E { A = `a` as any } const j = <div {...p}>{q?.r}</div>;",
    ];

    [Property(MaxTest = 600, Replay = "10910116171379133507,3941077600490775537")]
    public Property Mutated_code_is_audited_to_the_end() => Prop.ForAll(Mutations().ToArbitrary(), input =>
    {
        var result = Auditor.Run(("a." + input.Extension, input.Code));
        return IsRead(result).Label($"{result.Figures.Files} file; {string.Join("; ", result.Notes.Select(n => n.Text))}");
    });

    [Theory]
    [InlineData("php", "<?php ")]
    [InlineData("php", "")]
    [InlineData("blade.php", "<html>@if ($a)\n{!!}c'] {{}} {!! $x")]
    [InlineData("erb", "<%%><%=%><%-%><%")]
    [InlineData("html", "{%%}{{}}{##}{{-}}{%")]
    [InlineData("hbs", "{{{}}}{{&}}{{{")]
    [InlineData("js", "\0\0\0")]
    [InlineData("ts", "}}}}))))]]]]")]
    [InlineData("php", "<?php class A extends A { function f() { return $this->f(); } } (new A)->f();")]
    [InlineData("js", "function f(x) { return g(x); } function g(x) { return f(x + '1'); } f(1); const o = {}; o.o = o; o.o.o = o;")]
    [InlineData("php", "<?php include 'a.php'; interface I extends I {} trait T { use T; } class C { use T; } C::x();")]
    [InlineData("php", "<?php class A extends { function f($a) { return $this->g(...$a); } } foreach ($x as [$a]) { echo <<<E\n$a\nch($x) { 1 => 2 }; ?> <b><?= $y ?>")]
    [InlineData("py", "@app.route('/x')\nasync def f(self):\n    with open(f'{x}' g, h() as (i, j):\n        return {**d, ': lambda: (yield)}\n")]
    [InlineData("js", "app.get('/x', (req, res) => { let o = { '': req.user.id, a: 1 }; if (req.query.all) { o = { a: 2 }; } User.findAll({ where: o, include: { '': { '': {} } }, attributes: [''] }); res.json(req.body['']); });")]
    [InlineData("php", "<?php $o = ['' => $_SESSION['']]; if ($_GET['']) { $o = []; } $q->where($o)->where('', '')->with(['' => ['' => []]])->select(''); $s->execute([''=> $_POST['']]); setcookie(''); header(''); $$_GET[''];")]
    [InlineData("rb", "class AController < ApplicationController\n  def f\n    o = { '' => current_user.id }\n    o = {} if params['']\n    render json: A.where(o).where('').includes({ '' => { '' => 1 } }).order('').find_by('' => params[''])\n  end\nend\n")]
    public void Odd_files_are_audited(string extension, string code) => Assert.True(IsRead(Auditor.Run(("a." + extension, code))));

    [Theory]
    [InlineData("js", "(", ")", 20_000)]
    [InlineData("js", "[", "]", 20_000)]
    [InlineData("js", "if(a){", "}", 5_000)]
    [InlineData("php", "<?php f(", "", 5_000)]
    public void Deeply_nested_code_does_not_exhaust_the_stack(string extension, string open, string close, int depth)
    {
        var code = new StringBuilder(extension == "php" ? "<?php " : "");
        var part = open.Replace("<?php ", "", StringComparison.Ordinal);
        code.Insert(code.Length, part, depth).Append('1').Insert(code.Length, close, depth);
        Assert.Equal(1, Auditor.Run(("a." + extension, code.ToString())).Figures.Files);
    }

    [Fact]
    public void A_function_that_takes_too_long_is_followed_coarsely_and_noted()
    {
        var tree = Auditor.Tree(("a.php", "<?php function slow($x) { return $x . '!'; } $db = new PDO('x'); $db->query('SELECT 1 FROM t WHERE a = ' . slow($_GET['a']));"));
        var result = AuditPipeline.Run(tree, new AuditOptions { Threads = 1, FunctionLimit = TimeSpan.Zero });
        Assert.Contains(result.Notes, n => n.Path == "a.php" && n.Text.StartsWith("“slow” took longer", StringComparison.Ordinal));
        Assert.DoesNotContain(result.Notes, n => n.Text.StartsWith(AuditPipeline.UnreadNote, StringComparison.Ordinal));
        Assert.Empty(Auditor.Run(("a.php", "<?php function fast($x) { return $x; }")).Notes);
    }

    [Fact]
    public void A_long_chain_of_joined_text_is_followed()
    {
        var code = "<?php $s = 'a'; " + string.Concat(Enumerable.Range(0, 3000).Select(i => $"$s .= 'x{i}'; if ($c{i}) {{ $s .= $_GET['a']; }} ")) + "mysqli_query($d, $s);";
        Assert.Contains(Auditor.Run(("a.php", code)).Findings, f => f.CheckId == "injection/sql");
    }

    [Fact]
    public void An_audit_can_be_cancelled()
    {
        using var cancel = new CancellationTokenSource();
        cancel.Cancel();
        Assert.Throws<OperationCanceledException>(() => AuditPipeline.Run(Auditor.Tree(("a.php", "<?php f();")), new(), null, cancel.Token));
    }

    private static bool IsRead(AuditResult result) =>
        result.Figures.Files == 1 && !result.Notes.Any(n => n.Text.StartsWith(AuditPipeline.UnreadNote, StringComparison.Ordinal));

    /// <summary>Of the seeds, in their order.</summary>
    private static readonly string[] Extensions = ["php", "js", "py", "rb", "cs", "html.erb", "cshtml", "blade.php", "html", "vue", "tsx"];

    private static Gen<(string Extension, string Code)> Mutations() =>
        from seed in Gen.Choose(0, Seeds.Length - 1)
        from cuts in Gen.ListOf(Gen.Choose(0, 1000))
        from noise in Gen.Elements("", "}", "{", "'", "\"", "`", "<?php", "?>", "${", "/*", "\n", "é", "$", "=>", "...", "function", "class ", "''", "['']", "{'': 1}")
        select (Extensions[seed], Cut(Seeds[seed], [.. cuts.Take(4)], noise));

    private static string Cut(string seed, int[] cuts, string noise)
    {
        var code = seed;
        foreach (var cut in cuts)
        {
            var at = code.Length == 0 ? 0 : cut % code.Length;
            code = code[..at] + noise + code[Math.Min(code.Length, at + (cut % 7))..];
        }

        return code;
    }
}
