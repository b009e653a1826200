using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>What a framework does against forged requests without being asked, where the program has it switched on.</summary>
internal sealed class ForgeryDefaults(ProgramModel program, LibraryModels facts)
{
    private readonly Dictionary<(string Family, string Library), List<(ForgeryDefaultModel Model, Location At)>> _known = [];

    /// <summary>What protects the entry, and where that is switched on; null for nothing.</summary>
    public StepEvidence? Of(EntryPoint entry)
    {
        var family = Languages.Family(entry.Handler!.File.Source.Language);
        foreach (var (model, at) in For(family, entry.By))
        {
            if (model.DeclaredIn.Count == 0)
            {
                return new StepEvidence(at, model.By);
            }

            if (entry.At.IsKnown && model.DeclaredIn.Exists(f => program.Files[entry.At.File].Source.Path.EndsWith(f, StringComparison.Ordinal)))
            {
                return new StepEvidence(entry.At, model.By);
            }
        }

        return null;
    }

    private List<(ForgeryDefaultModel Model, Location At)> For(string family, string library)
    {
        if (!_known.TryGetValue((family, library), out var known))
        {
            _known[(family, library)] = known = [.. facts.For(family).ForgeryDefaults.Where(d => d.Library == library).Select(d => (d.Model, Where(family, d.Model))).Where(d => d.Item2 is not null).Select(d => (d.Model, d.Item2!.Value))];
        }

        return known;
    }

    /// <summary>Where it is switched on; an unknown place where it need not be.</summary>
    private Location? Where(string family, ForgeryDefaultModel model)
    {
        if (model.DeclaredIn.Count > 0)
        {
            return default(Location);
        }

        foreach (var file in program.Files.Where(f => Languages.Family(f.Source.Language) == family))
        {
            foreach (var (name, at) in model.Settings.Count == 0 ? [] : SettingPlaces.In(file))
            {
                if (model.Settings.Contains(name))
                {
                    return at;
                }
            }

            foreach (var function in file.Functions)
            {
                foreach (var call in function.NamedCalls.Where(c => model.Calls.Contains(c.Name)))
                {
                    if (model.From is not { } from || SettingPlaces.VersionAt(function, call.Instruction) >= from)
                    {
                        return function.LocationOf(call.Instruction);
                    }
                }

                foreach (var at in model.Texts.Count == 0 ? [] : SettingPlaces.OfTexts(function, model.Texts))
                {
                    return at;
                }
            }
        }

        return null;
    }
}
