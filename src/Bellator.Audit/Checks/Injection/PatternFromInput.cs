namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of a pattern.</summary>
public sealed class PatternFromInput : SinkCheck
{
    public override string Id => "injection/pattern-from-input";

    public override string Title => "Regular expression injection";

    public override IReadOnlyList<int> Cwes => [1333, 943];

    public override IReadOnlyList<string> Asvs => ["V1.2.9"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:N/I:N/A:L";

    public override string Why =>
        "A pattern that a visitor writes can take exponential time on a short text and stop the server, or match what was not meant.";

    public override string FalsePositiveIf => "The engine in use has no backtracking, or a time limit is set.";

    protected override string Kind => "pattern";

    protected override string Happens => "becomes part of a regular expression, unescaped";

    protected override string LastStep => "used as a pattern";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Use re.escape(value).",
        "ruby" => "Use Regexp.escape(value).",
        "csharp" => "Use Regex.Escape(value), and give the expression a time limit.",
        "php" => "Use preg_quote($value, '/').",
        _ => "Escape the signs that mean something in a pattern before it is made, and limit the length.",
    };
}
