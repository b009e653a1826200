using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>Settings that a program leaves at the framework's default, where that leaves something unprotected.</summary>
internal static class UnsetSettings
{
    /// <summary>What of the kind is used with the setting left out, and the place where it would stand: once for each application.</summary>
    public static IEnumerable<(UnsetSettingModel Setting, Location At)> Of(ProgramModel program, LibraryModels facts, string kind)
    {
        foreach (var files in program.Files.Where(f => f.Source.Language != Language.Sql).GroupBy(f => Languages.Family(f.Source.Language)))
        {
            foreach (var setting in facts.For(files.Key).UnsetSettings.Where(s => s.Kind == kind))
            {
                if (files.Any(f => f.Functions.Exists(g => g.NamedCalls.Any(n => setting.SetBy.Contains(n.Name)))))
                {
                    continue;
                }

                foreach (var at in setting.Within || setting.Below is not null ? Calls(files, setting) : Program(files, setting))
                {
                    yield return (setting, at);
                }
            }
        }
    }

    /// <summary>Calls that switch the feature on, without the setting in what they are given.</summary>
    private static IEnumerable<Location> Calls(IEnumerable<IrFile> files, UnsetSettingModel setting)
    {
        if (!setting.Within && files.Any(f => SettingPlaces.In(f).Any(s => setting.Settings.Contains(s.Name))))
        {
            yield break;
        }

        foreach (var file in files)
        {
            foreach (var (function, call) in file.Functions.SelectMany(f => f.NamedCalls.Where(n => setting.Calls.Contains(n.Name)).Select(n => (f, n.Instruction))))
            {
                var at = function.LocationOf(call);
                if ((!setting.Within || !SettingPlaces.In(file).Any(s => setting.Settings.Contains(s.Name) && s.At.Start >= at.Start && s.At.End <= at.End))
                    && (setting.Below is not { } below || SettingPlaces.VersionAt(function, call) < below))
                {
                    yield return at;
                }
            }
        }
    }

    /// <summary>The feature is used somewhere, and the setting is nowhere.</summary>
    private static IEnumerable<Location> Program(IEnumerable<IrFile> files, UnsetSettingModel setting)
    {
        var used = files.SelectMany(f => UsesIn(f, setting)).Take(1).ToList();
        if (used.Count == 0)
        {
            yield break;
        }

        var places = new Dictionary<string, Location>(StringComparer.Ordinal);
        foreach (var (name, at) in files.SelectMany(SettingPlaces.In))
        {
            if (setting.Settings.Contains(name))
            {
                yield break;
            }

            if (setting.Near.Contains(name))
            {
                places.TryAdd(name, at);
            }
        }

        yield return setting.Near.Where(places.ContainsKey).Select(n => places[n]).Append(used[0]).First();
    }

    private static IEnumerable<Location> UsesIn(IrFile file, UnsetSettingModel setting)
    {
        if (file.Imports.Values.Any(i => setting.Imports.Contains(i.Module + "." + i.Name)))
        {
            yield return new Location(file.Index, 0, 0);
        }

        foreach (var function in setting.Calls.Count + setting.Texts.Count == 0 ? [] : file.Functions)
        {
            foreach (var call in function.NamedCalls.Where(n => setting.Calls.Contains(n.Name)))
            {
                yield return function.LocationOf(call.Instruction);
            }

            foreach (var at in setting.Texts.Count == 0 ? [] : SettingPlaces.OfTexts(function, setting.Texts))
            {
                yield return at;
            }
        }
    }
}
