using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Small programs through the readers and the lowering.</summary>
public sealed class ReaderTests
{
    [Theory]
    [InlineData("a.php", "<?php namespace A; use B\\C as D; abstract class X extends D implements I { use T; const K = 1; private static ?int $s = 2; public function __construct(private readonly string $p, int ...$r) { parent::__construct(); } abstract function f(): void; }")]
    [InlineData("a.php", "<?php enum S: string { case A = 'a'; public static function of(): self { return self::A; } } interface J { public function g(int $a = 1): ?array; } trait T { }")]
    [InlineData("a.php", "<?php foreach ($a as $k => [$x, 'y' => $y]) { if ($x): continue 2; elseif ($y): break; else: goto end; endif; } end: while (true): echo 1, 2; endwhile; do { } while (0);")]
    [InlineData("a.php", "<?php $f = function (&$a) use (&$b): int { static $n = 0; return $n++; }; $g = fn($x) => $x ** 2; [$a, , $c] = list($d, $e) = f(...$args, name: 3); $o?->p?->q(); $o::$z; $o::K; $c = clone $o; yield $k => $v; yield from g();")]
    [InlineData("a.php", "<?php try { throw new E(`ls $a`); } catch (A | B $e) { print $e; } finally { } switch ($x) { case 1: default: } $v = match(true) { $a, $b => 1, default => 2 }; $s = <<<\"X\"\n a {$b->c['d']} ${e} $f[g]\nX; declare(strict_types=1); global $q; unset($a['b']); @$x; exit(1); ?>\n<b><?= $x ?></b>")]
    [InlineData("a.js", "import d, { a as b } from './x.js'; import * as n from 'y'; export default class A extends B { #p = 1; static s = 2; get g() { return this.#p; } static { init(); } async *gen() { yield* x; } } export { b as c }; export * from './z'; export const [q, ...r] = [1];")]
    [InlineData("a.js", "label: for (let i = 0, j = 1; i < j; i++) { for (const k in o) { if (k) continue label; else break label; } for await (const v of s) { } } var f = async ({ a, b: { c = 1 } = {}, ...rest }, [d] = []) => ({ ...a, [b]: c, m() { }, 'x-y': 1 }); x?.y?.[z]?.(w); new.target; tag`a${b}c`; delete o.p; void 0, typeof x;")]
    [InlineData("a.js", "try { throw e } catch { } finally { } switch (x) { case 1: let y; break; default: } with (o) { } debugger; a ||= b; a &&= c; a ??= d; a **= 2; if (a) b; else if (c) d; while (0); do ; while (1); /re[/]x/gi.test(s); (function named() { return named; })(); 10n; 0x_f;")]
    [InlineData("a.ts", "enum E { A = 1, B } namespace N { export const x = 1; } declare module 'm' { } abstract class C<T> implements I { constructor(private readonly a: A, @Inject() public b?: B) { super(); } abstract f(): void; x!: string; } const y = <const>z as unknown as T satisfies U; let u: Array<string> | null = v!; function g(this: Window, ...a: number[]): asserts a is T { } type Q = { a: 1 }; import fs = require('fs'); export = y;")]
    [InlineData("a.tsx", "const A = ({ x }: P) => <><B {...x} y={1} z=\"s\">text {x.map(i => <C key={i} />)} &amp;</B></>;")]
    public void Real_constructs_are_modelled(string path, string code)
    {
        var unit = Auditor.Read(path, code);
        Assert.True(unit.OpaqueCount <= 1, string.Join(", ", unit.OpaqueKinds.Keys));
        var lowered = Lowering.Lower(unit);
        Assert.All(lowered.Functions, CheckForm);
    }

    [Fact]
    public void Text_values_are_those_of_the_language()
    {
        Assert.Equal("it's", Text("a.php", "<?php f('it\\'s');"));
        Assert.Equal("a\nb\u00e9", Text("a.php", "<?php f(\"a\\nb\\u{e9}\");"));
        Assert.Equal("a\tb'", Text("a.js", "f('a\\tb\\x27');"));
        Assert.Equal("\U0001F41D", Text("a.js", "f('\\u{1f41d}');"));
    }

    [Fact]
    public void Regions_count_utf16_units_from_one()
    {
        var file = Auditor.File("a.js", "// é🐝\nfoo();\n");
        Assert.Equal(new Region(1, 4, 1, 7), file.RegionOf(new Span(3, 9)));
        Assert.Equal(2, file.LineOf(10));
        Assert.Equal("foo();", file.Line(2));
        Assert.Equal(2, file.LineCount);
    }

    [Fact]
    public void Block_scopes_and_closures_share_the_right_variables()
    {
        // The inner a is another variable; the closure changes the outer b.
        var file = Auditor.Lower("a.js", "let a = 1; { let a = 2; f(a); } let b = 3; (() => { b = 4; })(); g(b);");
        var top = file.Functions[0];
        var call = top.Instructions.First(i => i.Op == Opcode.Call && top.Instructions[i.A].Text == "f");
        Assert.Equal("2", top.Instructions[top.List(call)[0].Value].Text);
        var shared = top.Instructions.First(i => i.Op == Opcode.Call && top.Instructions[i.A].Text == "g");
        Assert.Equal(Opcode.LoadCell, top.Instructions[top.List(shared)[0].Value].Op);
    }

    [Fact]
    public void Branches_meet_in_a_phi_and_dominators_are_found()
    {
        var top = Auditor.Lower("a.php", "<?php if ($c) { $x = 1; } else { $x = 2; } f($x);").Functions[0];
        var call = top.Instructions.First(i => i.Op == Opcode.Call);
        var phi = top.Instructions[top.List(call)[0].Value];
        Assert.Equal(Opcode.Phi, phi.Op);
        Assert.Equal(["1", "2"], top.List(phi).ToArray().Select(o => top.Instructions[o.Value].Text));
        var meeting = top.Blocks[top.BlockOf[top.List(call)[0].Value]];
        Assert.Equal(0, meeting.Dominator);
    }

    private static string? Text(string path, string code)
    {
        var top = Auditor.Lower(path, code).Functions[0];
        return top.Instructions[top.List(top.Instructions.First(i => i.Op == Opcode.Call))[0].Value].Text;
    }

    /// <summary>Every operand is an instruction that exists, and every reachable block has its dominator among the reachable.</summary>
    private static void CheckForm(IrFunction function)
    {
        foreach (var block in function.Order)
        {
            foreach (var index in function.Blocks[block].Instructions)
            {
                var instruction = function.Instructions[index];
                if (instruction.Op is Opcode.Call or Opcode.CallMethod or Opcode.Concat or Opcode.Phi or Opcode.Object or Opcode.List or Opcode.New or Opcode.CallStatic)
                {
                    foreach (var operand in function.List(instruction))
                    {
                        Assert.InRange(operand.Value, 0, function.Instructions.Length - 1);
                    }
                }
            }

            Assert.True(block == 0 || function.Blocks[function.Blocks[block].Dominator].IsReachable);
        }
    }
}
