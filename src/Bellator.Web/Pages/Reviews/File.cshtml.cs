using Bellator.Storage;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class FileModel(Database database) : ReviewPage(database)
{
    private const int MaxLines = 20_000;

    public override string Stage => "Intake";

    [BindProperty(SupportsGet = true)]
    public string Path { get; set; } = "";

    public IReadOnlyList<CodeLine> Lines { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(long? finding)
    {
        var marks = new List<Mark>();
        var snapshot = Snapshots.Count > 0 ? Snapshots[0].Id : Guid.Empty;
        if (finding is { } id && await Findings.DetailAsync(ReviewId, id) is { } detail)
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

        Lines = new CodeView(file).Lines(1, MaxLines, marks);
        return Page();
    }
}
