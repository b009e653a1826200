using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Syntax;
using Bellator.Text;
using YamlDotNet.RepresentationModel;

namespace Bellator.Audit.Accounts;

/// <summary>Journeys that are no code of the application: a library brings them where a call asks for it, or a file with settings.</summary>
internal sealed class ProvidedJourneys(AccountContext context)
{
    public IEnumerable<Journey> All() => ByCalls().Concat(BySettings());

    private IEnumerable<Journey> ByCalls()
    {
        foreach (var happening in ProvidedRoutes.Calls(context.Flow))
        {
            foreach (var journey in ProvidedRoutes.Of(happening))
            {
                yield return Made(journey, happening.Fact!.Library, happening.At, ProvidedRoutes.GivenTo(happening), journey.Path.Length > 0 ? ProvidedRoutes.PathOf(journey, happening) : PathAround(happening.At));
            }
        }
    }

    private IEnumerable<Journey> BySettings()
    {
        var languages = context.Program.Files.Select(f => Languages.Family(f.Source.Language)).Where(l => l.Length > 0).Distinct();
        foreach (var fact in languages.SelectMany(l => context.Flow.Facts.For(l).SettingJourneys))
        {
            foreach (var (file, _, node) in YamlSettings.Find(context.Program.Tree, fact.Files, fact.At))
            {
                foreach (var area in (node as YamlMappingNode)?.Children.Values.OfType<YamlMappingNode>() ?? [])
                {
                    var given = area.Children.Keys.OfType<YamlScalarNode>().Select(k => k.Value ?? "").ToHashSet(StringComparer.Ordinal);
                    foreach (var (key, journey) in fact.Brings)
                    {
                        if (area.Children.TryGetValue(new YamlScalarNode(key), out var asked))
                        {
                            var path = fact.PathKeys.Select(k => YamlSettings.At(asked, k) as YamlScalarNode).FirstOrDefault(n => n?.Value is { Length: > 0 })?.Value;
                            var name = area.Children.Keys.First(k => k is YamlScalarNode scalar && scalar.Value == key);
                            yield return Made(journey, fact.Library, YamlSettings.PlaceOf(file, name), given, path is null ? journey.Path : PathNamed(path, fact.RouteName)) with { IsSetUp = true };
                        }
                    }
                }
            }
        }
    }

    private Journey Made(ProvidedJourneyModel journey, string library, Location at, IReadOnlySet<string> given, string path)
    {
        var by = library.Split(',')[0];
        var kind = Enum.Parse<JourneyKind>(journey.Journey.Replace("-", "", StringComparison.Ordinal), ignoreCase: true);
        var steps = journey.Steps.Select(s =>
        {
            var (state, text) = s.Value.Split(": ", 2) is [var said, var rest] && Enum.TryParse<StepState>(said.Replace(" ", "", StringComparison.Ordinal), true, out var known) ? (known, rest) : (StepState.Shown, s.Value);
            return JourneyStep.Of(s.Key, state, text, $"{by} does so, as its documentation says; its code is not in the material.", new StepEvidence(at, "brings it"));
        });
        return new Journey(kind, [], by, at, [.. steps.Select(s => Settings.Applied(context, s, given))]) { Address = $"{(journey.Method == "*" ? "any" : journey.Method)} {path}" };
    }

    /// <summary>The path that the call around a place gives to it.</summary>
    private string PathAround(Location at) =>
        context.Surface.EntryPoints.FirstOrDefault(e => e.At.File == at.File && e.At.Start <= at.Start && at.End <= e.At.End)?.Path ?? "/";

    /// <summary>The path of a route that settings tell by its name.</summary>
    private string PathNamed(string name, string argument) => name is ['/', ..] ? name
        : context.Surface.EntryPoints.FirstOrDefault(e => e.Handler?.Annotations.Any(m => m.Arguments.Any(a => a.Name == argument && a.Value is Literal { Kind: LiteralKind.Text } text && text.Text == name)) ?? false)?.Path ?? name;
}
