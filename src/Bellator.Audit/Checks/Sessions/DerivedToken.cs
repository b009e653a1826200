using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token that is the digest of things that others know: an id, an address, the time.</summary>
/// <param name="At">Where it is computed.</param>
/// <param name="Token">The name that it gets.</param>
/// <param name="Made">What it is made of.</param>
public sealed record DerivedToken(Location At, IrFunction Function, string Token, IReadOnlyList<string> Made)
{
    /// <summary>Something so deep is not understood.</summary>
    private const int MaxSteps = 16;

    /// <summary>The derived tokens of the program; one for which anything is not known to be guessable is none.</summary>
    public static IEnumerable<DerivedToken> Of(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash).Where(e => e is { Depth: 0, Guessed: false }))
        {
            var function = hash.Function;
            var made = ValueUses.CallAt(function, hash.At);
            if (made < 0)
            {
                continue;
            }

            var parts = new Parts(context, function);
            if (Hashed(function, made, hash.Fact?.Hash?.Value) is { Count: > 0 } hashed && hashed.TrueForAll(v => parts.Take(v, 0)) && parts.NamesSomebody
                && PredictableToken.TokenMadeOf(context, function, made) is { } token)
            {
                yield return new DerivedToken(hash.At, function, token, [.. parts.Names]);
            }
        }
    }

    /// <summary>What is hashed: an argument of the call, or what was given to the calls before it in its chain.</summary>
    private static List<int> Hashed(IrFunction function, int call, int? argument)
    {
        var given = function.List(function.Instructions[call]).ToArray();
        if (argument is { } at)
        {
            return at < given.Length ? [given[at].Value] : [];
        }

        var hashed = new List<int>();
        for (var steps = 0; steps < MaxSteps && function.Instructions[call] is { Op: Opcode.CallMethod, A: >= 0 } link; steps++)
        {
            if (steps > 0)
            {
                hashed.AddRange(function.List(link).ToArray().Select(o => o.Value));
            }

            call = link.A;
        }

        return hashed;
    }

    /// <summary>Goes back from a value to what it was put together from.</summary>
    private sealed class Parts(CheckContext context, IrFunction function)
    {
        private readonly IdentifierClassifier _words = context.Words;

        /// <summary>What was looked at already is not looked at again: in a loop a value is made of itself.</summary>
        private readonly HashSet<int> _seen = [];

        public SortedSet<string> Names { get; } = new(StringComparer.Ordinal);

        /// <summary>There is an id or an address among the parts: what is only made of the time is random numbers’ matter.</summary>
        public bool NamesSomebody { get; private set; }

        /// <summary>Whether all that the value was made of can be guessed.</summary>
        public bool Take(int value, int depth)
        {
            if (depth > MaxSteps || value < 0)
            {
                return false;
            }

            if (!_seen.Add(value))
            {
                return true;
            }

            ref readonly var instruction = ref function.Instructions[value];
            switch (instruction.Op)
            {
                case Opcode.Constant:
                    return true;
                case Opcode.Concat or Opcode.Phi or Opcode.List:
                    return TakeAll(in instruction, depth);
                case Opcode.Cast or Opcode.Unary:
                    return Take(instruction.A, depth + 1);
                case Opcode.Binary:
                    return instruction.Text is "+" or "." or "*" or "-" or "||" or "??" && Take(instruction.A, depth + 1) && Take(instruction.B, depth + 1);
                case Opcode.Parameter:
                    return instruction.A >= 0 && instruction.A < function.Parameters.Count && Known(function.Parameters[instruction.A].Name);
                case Opcode.GetField or Opcode.GetStatic:
                    return Known(instruction.Text);
                case Opcode.GetItem:
                    return instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } key } && Known(key);
                case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                    return TakeCall(value, in instruction, depth);
                default:
                    return false;
            }
        }

        private bool TakeAll(in Instruction instruction, int depth)
        {
            foreach (var operand in function.List(instruction))
            {
                if (!Take(operand.Value, depth + 1))
                {
                    return false;
                }
            }

            return true;
        }

        private bool TakeCall(int value, in Instruction call, int depth)
        {
            var name = IrClass.ShortOf((call is { Op: Opcode.Call, A: >= 0 } ? function.Instructions[call.A].Text ?? function.Names.GetValueOrDefault(call.A) : call.Text) ?? "");
            if (_words.MakesRandom(name))
            {
                return false;
            }

            if (_words.TellsTime(name))
            {
                Names.Add(context.Program.Tree.TextOf(function.LocationOf(value), 40));
                return true;
            }

            if (call.C == 0 && call.Op == Opcode.CallMethod && LanguageSemantics.For(function.File.Source.Language).MembersAreCalls && Known(name))
            {
                return true;
            }

            return _words.IsForm(name) && TakeAll(in call, depth) && (call.Op != Opcode.CallMethod || (call.C > 0 && IsOfLibrary(call.A)) || Take(call.A, depth + 1));
        }

        /// <summary>What is called belongs to no object of the program: <c>Encoding.UTF8.GetBytes</c>.</summary>
        private bool IsOfLibrary(int value)
        {
            for (; value >= 0 && function.Instructions[value] is { Op: Opcode.GetField, Text: { } name } field; value = field.A)
            {
                if (_words.HoldsRandom(name) || _words.IsSecretToken(name) || _words.NamesKey(name) || _words.IsPasswordColumn(name))
                {
                    return false;
                }
            }

            return value >= 0 && function.Instructions[value].Op == Opcode.Global;
        }

        /// <summary>The name is that of something that is no secret: which record it is, how a person is called or reached, when something was.</summary>
        private bool Known(string? name)
        {
            if (name is not { Length: > 0 } || _words.IsSecretToken(name) || _words.IsPasswordColumn(name) || _words.IsCredential(name) || _words.NamesKey(name) || _words.HoldsRandom(name))
            {
                return false;
            }

            var isSomebody = _words.IsRecordKey(name) || _words.IsEmail(name) || _words.IsAccountName(name) || _words.IsKeyName(name);
            if (!isSomebody && !_words.TellsWhen(name) && !_words.TellsTime(name))
            {
                return false;
            }

            NamesSomebody |= isSomebody;
            Names.Add(name.TrimStart('$', '@'));
            return true;
        }
    }
}
