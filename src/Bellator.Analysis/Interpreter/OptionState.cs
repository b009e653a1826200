using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Whether an option of a call is on, off, or not to be told.</summary>
/// <param name="isWrittenOut">Whether the instruction that made an argument writes it out, so that what is not seen of it is not there.</param>
internal sealed class OptionState(CallSite site, Func<int, bool> isWrittenOut)
{
    /// <param name="option">The argument and the way into it, by points.</param>
    /// <param name="defaultOn">What is absent is on.</param>
    /// <param name="orPositional">The same can be said by further arguments in place of an object with options, which would be the last.</param>
    public bool IsOff(string option, bool defaultOn, bool orPositional)
    {
        var (value, isAbsent) = Find(option, orPositional);
        return isAbsent ? !defaultOn : value is { } given && SaysNo(given);
    }

    /// <summary>Something is said of the option.</summary>
    public bool IsGiven(string option) => Find(option).Value is not null;

    /// <summary>The option has the value, or lists it.</summary>
    public bool Has(string option, string wanted) =>
        Find(option).Value is { } given && (Is(given, wanted) || given.Parts.Any(p => Is(p, wanted)));

    /// <summary>The option lists signing algorithms with a shared secret and such with a public key: the public key may be taken for the secret (RFC 8725, 2.1).</summary>
    public bool MixesKeys(string option) =>
        Find(option).Value is { } given && given.Parts.Select(p => p.Constant).OfType<string>().ToList() is var names
        && names.Exists(n => n.StartsWith("HS", StringComparison.Ordinal)) && names.Exists(n => n.Length > 2 && n[..2] is "RS" or "ES" or "PS" or "Ed");

    private static bool Is(AbstractValue value, string wanted) =>
        value.Constant?.Equals(wanted, StringComparison.OrdinalIgnoreCase) == true || value.Library?.EndsWith(wanted, StringComparison.Ordinal) == true;

    private static bool SaysNo(AbstractValue value) =>
        value.Constant is { } constant && value.Taints.Count == 0 && (value.ConstantKind == LiteralKind.Null || constant.ToLowerInvariant() is "false" or "0" or "" or "no" or "off" or "none" or "null" or "nil" or "undefined");

    /// <summary>What is known of the option: its value, or that there is none.</summary>
    private (AbstractValue? Value, bool IsAbsent) Find(string option, bool orPositional = false)
    {
        var path = option.Split('.');
        AbstractValue value;
        var isWritten = true;
        if (int.TryParse(path[0], NumberStyles.None, CultureInfo.InvariantCulture, out var position))
        {
            // An argument given by its name may be the one that is asked for.
            if (position >= site.Arguments.Count || (position < site.Names.Count && site.Names[position] is not null))
            {
                return (null, site.Names.Count == 0);
            }

            if (orPositional && path.Length > 1 && position < site.Arguments.Count - 1)
            {
                return (null, true);
            }

            value = site.Arguments[position];
            isWritten = isWrittenOut(site.Operand(position));
        }
        else if (site.Option(path[0]) is { } named)
        {
            value = named;
        }
        else
        {
            return (null, !site.Names.Contains("**") && (site.Names.Count > 0 || site.Arguments.Count == 0 || (IsKnown(site.Arguments[^1]) && isWrittenOut(site.Operand(site.Arguments.Count - 1)))));
        }

        foreach (var name in path.AsSpan(1))
        {
            if (value.Field(name) is not { } part)
            {
                return (null, isWritten && IsKnown(value));
            }

            value = part;
        }

        return (value, false);
    }

    /// <summary>All that the value holds is known: it is written out, and nothing of unknown content is spread into it.</summary>
    private static bool IsKnown(AbstractValue value) =>
        value is { Constant: not null, Taints.Count: 0 } || (value is { Fields: not null, Taints.Count: 0 } && !value.Types.Contains(AbstractValue.OpenObject) && !value.PartNames.Any(n => n is "*" or "**"));
}
