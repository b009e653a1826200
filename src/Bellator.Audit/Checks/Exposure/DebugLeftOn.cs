using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Exposure;

/// <summary>Help for developers is switched on, and no setting decides about it.</summary>
public sealed class DebugLeftOn : SwitchCheck
{
    public override string Id => "exposure/debug-left-on";

    public override string Title => "Debug mode left on";

    public override IReadOnlyList<int> Cwes => [489, 215];

    public override IReadOnlyList<string> Asvs => ["V13.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why =>
        "Whoever makes the program fail is shown its inside: paths, statements, values, sometimes the settings with their passwords. An interactive debugger also runs what is typed into it.";

    public override string FalsePositiveIf => "This file only ever runs on a developer's own machine, and the installed program starts in another way.";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Start with debug=False, or let the environment decide: debug=os.environ.get('APP_DEBUG') == '1'. Serve with a WSGI server.",
        "csharp" => "Only if (app.Environment.IsDevelopment()) app.UseDeveloperExceptionPage(); otherwise app.UseExceptionHandler(\"/error\").",
        "php" => "Leave display_errors off and log_errors on; set both in the server's configuration, not in the code.",
        _ => "Let the environment decide, with off as the default.",
    };

    protected override string Kind => "debug";

    protected override string Message(AnalysisEvent happening) => "What helps developers is switched on here, and no setting decides about it.";
}
