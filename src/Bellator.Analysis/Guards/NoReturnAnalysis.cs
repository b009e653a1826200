using System.Runtime.CompilerServices;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Analysis.Guards;

/// <summary>Finds the calls that never come back: of library functions that the facts say stop, and of the program's own that always end in one.</summary>
internal static class NoReturnAnalysis
{
    /// <summary>A helper that redirects and stops is called by one that checks sign-in: two levels are common, more are not.</summary>
    private const int Rounds = 3;

    public static void Cut(ProgramModel program, LibraryModels facts)
    {
        var stops = new Stopping();
        var open = new List<(IrFunction Function, Candidates Calls)>();
        foreach (var function in program.Functions)
        {
            if (function.NeverReturns)
            {
                stops.Add(function);
            }
            else if (Candidates.Of(function, facts) is { IsEmpty: false } calls)
            {
                open.Add((function, calls));
            }
        }

        for (var round = 0; round < Rounds; round++)
        {
            var before = stops.Count;
            foreach (var (function, candidates) in open)
            {
                List<int>? calls = null;
                foreach (var i in candidates.Always)
                {
                    Add(ref calls, function, i);
                }

                foreach (var i in candidates.Named)
                {
                    if (stops.After(program, function, i) || IsInherited(program, facts, function, i))
                    {
                        Add(ref calls, function, i);
                    }
                }

                if (calls is not null)
                {
                    UnreachableCode.Cut(function, calls);
                    if (UnreachableCode.NeverReturns(function))
                    {
                        stops.Add(function);
                    }
                }
            }

            if (stops.Count == before)
            {
                break;
            }
        }
    }

    /// <summary>A method that the object has from a class of a library, which does not come back from it.</summary>
    private static bool IsInherited(ProgramModel program, LibraryModels facts, IrFunction function, int call) =>
        function.Instructions[call] is { Op: Opcode.CallMethod, Text: { } name } && function.Class is { } owner && program.OutsideBase(owner) is { } outside && program.FindMethod(owner, name) is null
        && facts.For(Languages.Family(function.File.Source.Language)).Method(outside, name) is { NoReturn: true };

    private static void Add(ref List<int>? calls, IrFunction function, int call)
    {
        if (!function.Blocks[function.BlockOf[call]].NeverContinues)
        {
            (calls ??= []).Add(call);
        }
    }

    /// <summary>The calls of a function that may not come back.</summary>
    /// <param name="Always">Those of which the facts say so.</param>
    /// <param name="Named">Those that may go to a function of the program, by its name.</param>
    private sealed record Candidates(LibraryModels Facts, int[] Always, int[] Named)
    {
        /// <summary>By a function's leads, which are another list when its code is changed: most functions are the same in the next audit of the material.</summary>
        private static readonly ConditionalWeakTable<int[], Candidates> Known = [];

        public bool IsEmpty => Always.Length + Named.Length == 0;

        public static Candidates Of(IrFunction function, LibraryModels facts) =>
            Known.GetValue(function.OutgoingCalls, _ => Find(function, facts)) is var known && ReferenceEquals(known.Facts, facts) ? known : Find(function, facts);

        private static Candidates Find(IrFunction function, LibraryModels facts)
        {
            var language = facts.For(Languages.Family(function.File.Source.Language));
            List<int> always = [];
            List<int> named = [];
            foreach (var i in function.OutgoingCalls)
            {
                ref readonly var instruction = ref function.Instructions[i];
                if (instruction.Op is not (Opcode.Call or Opcode.CallMethod))
                {
                    continue;
                }

                ref readonly var called = ref function.Instructions[instruction.A];

                // Without an object a call of Ruby may be one that is known everywhere.
                var known = instruction.Op == Opcode.Call ? (called.Op == Opcode.Global ? called.Text : null)
                    : called.Op == Opcode.This && function.File.Source.Language is Language.Ruby or Language.Erb ? instruction.Text : null;
                if ((known is not null && language.Call(known) is { NoReturn: true }) || (Imported(function.File, language, in called) is { } path && language.Call(instruction.Op == Opcode.Call ? path : path + "." + instruction.Text) is { NoReturn: true }))
                {
                    always.Add(i);
                }
                else if (instruction.Op == Opcode.Call ? called.Op is Opcode.Function or Opcode.Global : called.Op == Opcode.This && function.Class is not null)
                {
                    named.Add(i);
                }
            }

            return new Candidates(facts, [.. always], [.. named]);
        }

        /// <summary>The path of what a name was imported from, as facts know it; null for other names.</summary>
        private static string? Imported(IrFile file, LanguageModels language, ref readonly Instruction named) =>
            named.Op is Opcode.Global or Opcode.LoadShared or Opcode.LoadCell or Opcode.Import && named.Text is { } name && file.Imports.TryGetValue(name, out var import)
                ? language.Canonical(import.Name is "default" or "*" ? language.Canonical(import.Module) : language.Canonical(import.Module) + "." + import.Name) : null;
    }

    /// <summary>The functions of the program that never come back. Most calls are told from theirs by the name alone.</summary>
    private sealed class Stopping
    {
        private readonly HashSet<IrFunction> _functions = [];
        private readonly HashSet<string> _names = new(StringComparer.OrdinalIgnoreCase);

        public int Count => _functions.Count;

        public bool Add(IrFunction function)
        {
            _names.Add(IrClass.ShortOf(function.Name));
            return _functions.Add(function);
        }

        /// <summary>Whether nothing comes after a call.</summary>
        public bool After(ProgramModel program, IrFunction function, int index)
        {
            ref readonly var instruction = ref function.Instructions[index];
            ref readonly var called = ref function.Instructions[instruction.A];
            if (called.Op == Opcode.Function)
            {
                return _functions.Contains(function.File.Functions[called.A]);
            }

            var name = instruction.Op == Opcode.CallMethod ? instruction.Text! : called.Text!;
            return _names.Contains(IrClass.ShortOf(name))
                && (instruction.Op == Opcode.CallMethod ? program.FindMethod(function.Class!, name) : program.FindFunction(name, function.File)) is { } found && _functions.Contains(found);
        }
    }
}
