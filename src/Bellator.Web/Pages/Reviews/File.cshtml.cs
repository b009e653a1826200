using Bellator.Storage;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class FileModel(Database database) : ReviewPage(database)
{
    /// <summary>So many lines are shown at once.</summary>
    public const int Window = 1000;

    private const int Before = 100;

    public override string Stage => "Intake";

    [BindProperty(SupportsGet = true)]
    public string Path { get; set; } = "";

    /// <summary>A line to show; the window lies around it.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Line { get; set; }

    public int First { get; private set; } = 1;

    public int Last { get; private set; }

    public int LineCount { get; private set; }

    public IReadOnlyList<CodeLine> Lines { get; private set; } = [];

    /// <summary>The finding whose steps are marked.</summary>
    [BindProperty(SupportsGet = true, Name = "finding")]
    public long? FindingId { get; set; }

    /// <summary>This page at another line.</summary>
    public string At(int line) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(Path)}{(FindingId is { } id ? $"&finding={id}" : "")}&line={line}#L{line}";

    public async Task<IActionResult> OnGetAsync()
    {
        var marks = new List<Mark>();
        var snapshot = Snapshots.Count > 0 ? Snapshots[0].Id : Guid.Empty;
        if (FindingId is { } id && await Findings.DetailAsync(ReviewId, id) is { } detail)
        {
            snapshot = detail.Snapshot;
            marks.AddRange(detail.Finding.Steps.Where(s => s.Path == Path).Select(s => new Mark(s.Region, s.Kind == "sink")));
            if (detail.Finding.Path == Path)
            {
                marks.Add(new Mark(detail.Finding.Region, true));
            }
        }

        if (await OpenFileAsync(snapshot, Path) is not { } file)
        {
            return NotFound();
        }

        await CloseAsync();
        var wanted = Line ?? (marks.Count > 0 ? marks[^1].Region.StartLine : 1);
        LineCount = file.LineCount;
        First = LineCount <= Window ? 1 : Math.Clamp(wanted - Before, 1, LineCount - Window + 1);
        Last = Math.Min(LineCount, First + Window - 1);
        Lines = new CodeView(file).Lines(First, Last, marks, Gone);
        return Page();
    }
}
