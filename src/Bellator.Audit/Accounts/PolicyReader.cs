using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Endpoints;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Reads which passwords are taken: from rules in the code, and from the settings of libraries with what holds without them.</summary>
public sealed class PolicyReader(AccountContext context, InputRules rules)
{
    /// <summary>One policy for each place where passwords are set, those that are the same together.</summary>
    public IReadOnlyList<PasswordPolicy> Read(IReadOnlyList<Journey> journeys, Func<EntryPoint, JourneyEvidence> evidenceOf)
    {
        var policies = new List<PasswordPolicy>();
        foreach (var journey in journeys.Where(j => j.Kind is JourneyKind.Register or JourneyKind.ChangePassword or JourneyKind.Recover))
        {
            var byLibrary = Library(Languages.Family(context.Program.Files[journey.At.File].Source.Language));
            if (journey.Entries.Count == 0)
            {
                if (byLibrary is not null)
                {
                    policies.Add(new PasswordPolicy(Title(journey), byLibrary, "pbkdf2"));
                }

                continue;
            }

            var passed = evidenceOf(journey.Entries[^1]);
            var own = rules.For(passed).Where(r => context.Words.IsPassword(r.Field)).Select(Rule).OfType<PolicyRule>().ToList();
            var usesLibrary = passed.Acts["password-rules"].Any() || (passed.Acts["account-made"].Any() && byLibrary is not null);
            policies.Add(new PasswordPolicy(Title(journey), [.. own, .. usesLibrary ? byLibrary ?? [] : []], passed.PasswordHashes.Select(h => h.Scheme).FirstOrDefault(s => s is not ("configured" or "")) ?? passed.PasswordHashes.FirstOrDefault()?.Scheme) { Within = passed.Functions });
        }

        return policies;
    }

    private static string Title(Journey journey) => $"{journey.Kind switch { JourneyKind.Register => "Register", JourneyKind.Recover => "Recover", _ => "Change password" }} {journey.Address}";

    private static PolicyRule? Rule(InputRule rule) => rule.Kind switch
    {
        RuleKind.Minimum => new PolicyRule("min", rule.Number?.ToString(CultureInfo.InvariantCulture) ?? "", rule.At, rule.Text),
        RuleKind.Maximum when rule.Number is { } most => new PolicyRule("max", most.ToString(CultureInfo.InvariantCulture), rule.At, rule.Text),
        RuleKind.Pattern when rule.Pattern is { } pattern => new PolicyRule("pattern", pattern, rule.At, rule.Text),
        RuleKind.Required => null,
        _ => null,
    };

    private readonly Dictionary<string, IReadOnlyList<PolicyRule>?> _libraries = new(StringComparer.Ordinal);

    /// <summary>Rules of the library that the program uses for accounts; null if it uses none that the facts know.</summary>
    private IReadOnlyList<PolicyRule>? Library(string family) =>
        _libraries.TryGetValue(family, out var known) ? known : _libraries[family] = FindLibrary(family);

    private IReadOnlyList<PolicyRule>? FindLibrary(string family)
    {
        foreach (var fact in context.Flow.Facts.For(family).Policies)
        {
            if (Used(fact) is not { } at)
            {
                continue;
            }

            var found = new Dictionary<string, PolicyRule>(StringComparer.Ordinal);
            foreach (var (kind, value) in fact.Defaults)
            {
                found[kind] = new PolicyRule(kind, value, at, "holds by itself");
            }

            foreach (var (setting, kind) in fact.Settings)
            {
                if (Settings.Find(context, setting) is var (value, place))
                {
                    if (value is "false" or "False")
                    {
                        found.Remove(kind);
                    }
                    else
                    {
                        found[kind] = new PolicyRule(kind, value is "true" or "True" ? "1" : value, place, $"{setting} = {value}");
                    }
                }
            }

            foreach (var rule in Listed(fact))
            {
                found[rule.Kind] = rule;
            }

            return [.. found.Values];
        }

        return null;
    }

    private Location? Used(PolicyModel fact)
    {
        foreach (var function in context.Program.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                var instruction = function.Instructions[i];
                var name = instruction.Op switch { Opcode.CallMethod or Opcode.CallStatic => instruction.Text, Opcode.Call => function.Instructions[instruction.A].Text, Opcode.Export or Opcode.StoreShared => instruction.Text, _ => null };
                if (name is not null && fact.UsedBy.Contains(IrClass.ShortOf(name)))
                {
                    return function.LocationOf(i);
                }
            }
        }

        return null;
    }

    /// <summary>Settings that list validators by name, with options beside them: a text that ends like a setting's key, in an object.</summary>
    private IEnumerable<PolicyRule> Listed(PolicyModel fact)
    {
        foreach (var function in context.Program.Functions)
        {
            foreach (var instruction in function.Instructions.Where(i => i.Op == Opcode.Object))
            {
                foreach (var operand in function.List(instruction).ToArray())
                {
                    if (function.Instructions[operand.Value] is not { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { Length: > 8 } text } || !fact.Settings.TryGetValue(IrClass.ShortOf(text), out var kind))
                    {
                        continue;
                    }

                    var number = function.List(instruction).ToArray().Select(o => function.Instructions[o.Value]).Where(i => i.Op == Opcode.Object)
                        .SelectMany(i => function.List(i).ToArray()).Select(o => function.Instructions[o.Value]).FirstOrDefault(i => i.Op == Opcode.Constant && i.A == (int)LiteralKind.Number).Text;
                    yield return new PolicyRule(kind, number ?? fact.Defaults.GetValueOrDefault(kind + ":listed", kind == "min" ? "8" : "1"), function.LocationOf(operand.Value), IrClass.ShortOf(text));
                }
            }
        }
    }
}
