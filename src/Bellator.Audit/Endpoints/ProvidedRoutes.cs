using Bellator.Analysis.Events;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Addresses at which a library answers with pages of its own: their code is not in the material.</summary>
internal static class ProvidedRoutes
{
    /// <summary>Journeys of those who are signed in.</summary>
    private static readonly HashSet<string> SignedIn = new(StringComparer.Ordinal) { "sign-out", "change-password", "change-email", "profile" };

    public static IEnumerable<EntryPoint> Read(ProgramAnalysis flow)
    {
        foreach (var happening in Calls(flow))
        {
            foreach (var journey in Of(happening).Where(j => j.Path.Length > 0))
            {
                var library = happening.Fact!.Library.Split(',')[0];
                Middleware[] guards = SignedIn.Contains(journey.Journey) ? [new Middleware(library, Requirement.SignIn, happening.At)] : [];
                foreach (var path in Paths(PathOf(journey, happening)))
                {
                    yield return new EntryPoint(journey.Method, RoutePath.Normal(path), null, library, happening.At, Languages.Family(happening.Function.File.Source.Language), guards);
                }
            }
        }
    }

    /// <summary>Stands in a path for the accounts, whatever class the call makes accounts: <c>/keepers/sign_in</c>.</summary>
    private const string AccountsName = "{accounts}";

    public static string PathOf(ProvidedJourneyModel journey, AnalysisEvent happening) =>
        journey.Path.Replace(AccountsName, happening.Function.Class is { } type ? IdentifierClassifier.Plural(string.Join('_', IdentifierClassifier.Parts(type.ShortName))) : "users", StringComparison.Ordinal);

    /// <summary>Several pages after one another: the later ones lie beside the first.</summary>
    private static IEnumerable<string> Paths(string text)
    {
        var parts = text.Split(", ");
        var folder = parts[0][..(parts[0].LastIndexOf('/') + 1)];
        return parts.Select(p => p.StartsWith('/') ? p : folder + p);
    }

    /// <summary>The calls that bring journeys.</summary>
    public static IEnumerable<AnalysisEvent> Calls(ProgramAnalysis flow) => flow.Events.Of(EventKind.Provides).Where(e => e.Depth == 0).DistinctBy(e => e.Fact);

    /// <summary>What such a call is given by name: parts of the library that it asks for.</summary>
    public static HashSet<string> GivenTo(AnalysisEvent happening) =>
        happening.Role("given").Parts.Select(v => v.Constant?.TrimStart(':')).OfType<string>().ToHashSet(StringComparer.Ordinal);

    /// <summary>The journeys that a call brings.</summary>
    public static IEnumerable<ProvidedJourneyModel> Of(AnalysisEvent happening)
    {
        var given = GivenTo(happening);
        return happening.Fact!.Provided.Where(j => j.Needs is null || given.Contains(j.Needs));
    }
}
