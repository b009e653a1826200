using Bellator.Analysis.Ir;

namespace Bellator.Core.Tests;

/// <summary>
/// Each form of expression costs its own when it stands inside of itself: one that reads its inside twice doubles the work with every
/// level, and forty levels never end.
/// </summary>
public sealed class NestedFormTests
{
    private const int Shallow = 6;
    private const int Deep = 18;

    [Theory]
    [InlineData("a.js", "x = @;", "q", "a[@] += 1|(@ ?? 1)|(a ??= @)|(a[@] ??= 1)|(a[@] &&= 1)|(a.b[@].c += 1)|a[@]++|f`${@}`|(@ ? 1 : 2)|(1 ? @ : 2)|(a?.[@])|(@)?.b|{...@}|[...@]|(() => @)|(@, 1)|(a < @ < 2)|({[@]: 1})|(x = @)|([x] = @)|({x} = @)|new (@)|(class { f = @ })|(function(a = @){})|!@|(@ && 1)|`${@}`|(@ in b)|f(...@)|(await @)")]
    [InlineData("a.php", "<?php\n$x = @;", "$q", "$a[@] .= 1|($a[@] ??= 1)|($a[@][1] += 1)|$a[@]++|(@ ?? 1)|(@ ?: 1)|(@ ? 1 : 2)|(fn() => @)|[@, ...$b]|\"{$a[@]}\"|(list($x) = @)|match(1) { 1 => @, default => 2 }|match(@) { 1 => 1 }|clone @|(function() { return @; })|isset($a[@])|empty($a[@])|($a = @)|[$x] = @|f(x: @)|(print @)|($$a[@])")]
    [InlineData("a.py", "x = @", "q", "(1 < @ < 3)|(@ == 1 == 2)|(a < b < @)|(@ if 1 else 2)|(1 if @ else 2)|[x for x in @]|[@ for x in y]|(lambda: @)|(x := @)|f\"{@}\"|{1: @}|{**@}|[*@]|a[@]|(not @)|f(x=@)|a[@:1]|(@ or 1)|{x: 1 for x in @}")]
    [InlineData("a.rb", "x = @", "q", "(a[@] ||= 1)|(a[@] += 1)|(a.b[@] &&= 1)|(@ ? 1 : 2)|(1 if @)|(->(x) { @ })|[*@]|\"#{@}\"|(x = @)|(a, b = @)|f(x: @)|(@ unless 1)|a&.b(@)|(case @ when 1 then 2 end)|(case 1 when @ then 2 end)|(begin; @; rescue; 1; end)|f { \u00a6x\u00a6 @ }|(not @)|(@ rescue 1)|(while @ do 1 end)")]
    [InlineData("a.cs", "class C { void M() { var z = @; } }", "q", "a[@] += 1|(a[@] ??= 1)|a[@]++|(@ ?? 1)|(@ ? 1 : 2)|(() => @)|$\"{@}\"|a?[@]|(@ switch { 1 => 2, _ => 3 })|(1 switch { 1 => @, _ => 2 })|(@ is int x)|new A { B = @ }|new[] { @ }|(x = @)|((a, b) = @)|(from x in @ select x)|(@ with { A = 1 })|(int)@|(1, @)|f(x: @)|(@)!|checked(@)")]
    public void A_form_inside_of_itself_costs_its_own(string path, string program, string innermost, string forms)
    {
        var dear = forms.Split('|').Select(f => f.Replace('\u00a6', '|')).Where(f => Size(path, program, innermost, f, Deep) > 5 * Size(path, program, innermost, f, Shallow));
        Assert.Empty(dear);
    }

    private static int Size(string path, string program, string innermost, string form, int depth)
    {
        var text = Enumerable.Range(0, depth).Aggregate(innermost, (inner, _) => form.Replace("@", inner, StringComparison.Ordinal));
        return Lowering.Lower(Auditor.Read(path, program.Replace("@", text, StringComparison.Ordinal) + "\n")).Functions.Sum(f => f.Instructions.Length);
    }
}
