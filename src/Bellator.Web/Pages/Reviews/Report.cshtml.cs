using Bellator.Storage;

namespace Bellator.Web.Pages.Reviews;

public sealed class ReportModel(Database database) : ReviewPage(database)
{
    public override string Stage => "Report";

    public void OnGet()
    {
    }
}
