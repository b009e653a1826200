namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value becomes part of a command line.</summary>
public sealed class Command : SinkCheck
{
    public override string Id => "injection/command";

    public override string Title => "OS command injection";

    public override IReadOnlyList<int> Cwes => [78, 77];

    public override IReadOnlyList<string> Asvs => ["V1.2.5"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H";

    public override string Why =>
        "A shell takes signs such as ; | & and backquotes apart from the words around them. A visitor who sends them runs commands of their own with the rights of the server.";

    public override string FalsePositiveIf => "The value can only be one of a few the program chose, or the program is started without a shell and the value stands as one whole word after a fixed option.";

    protected override string Kind => "command";

    protected override string Happens => "becomes part of a command that a shell reads";

    protected override string LastStep => "given to a shell";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Pass each word through escapeshellarg(), or better do the work with a PHP function instead of a command.",
        "python" => "Start the program without a shell and with its words as a list: subprocess.run([\"convert\", name]).",
        "ruby" => "Give the words apart: system(\"convert\", name), never one text with interpolation.",
        "csharp" => "Use ProcessStartInfo with UseShellExecute = false and add each word to ArgumentList.",
        _ => "Start the program without a shell and with its words as a list: execFile(\"convert\", [name]).",
    };
}
