using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Reads what a program tells its mapper of tables in chains of calls: <c>Entity&lt;Keeper&gt;().HasIndex(k => k.Email).IsUnique()</c>.</summary>
internal static class FluentTables
{
    private const int MaxChain = 12;

    /// <summary>What the program calls tables other than their classes.</summary>
    public static void AddNames(DatabaseSchema schema, ProgramModel program, LibraryModels facts)
    {
        foreach (var (chain, fact, call) in Calls(program, facts))
        {
            if (call.Text == fact.Table && chain.TextOf(call) is { } table && chain.ModelOf(call.A) is { } model)
            {
                schema.NameModel(model, table);
            }
        }
    }

    /// <summary>What is said of columns: their names, lengths and keys.</summary>
    public static void Add(DatabaseSchema schema, ProgramModel program, LibraryModels facts)
    {
        // A key is told to be unique further along the chain.
        var keys = new Dictionary<(IrFunction, int), (Table Table, IReadOnlyList<string> Columns)>();
        var unique = new HashSet<(IrFunction, int)>();
        foreach (var (chain, fact, call) in Calls(program, facts))
        {
            if (call.Text == fact.Unique && chain.Before(call.A, fact.Index) is >= 0 and var key && chain.ConstantOf(call) is not "false")
            {
                unique.Add((chain.Function, key));
            }
            else if (chain.ModelOf(call.A) is { } model && schema.OfModel(model) is { } table)
            {
                if (call.Text == fact.Index)
                {
                    keys[(chain.Function, chain.Index)] = (table, chain.ColumnsOf(call));
                }
                else if (call.Text == fact.Length && chain.Before(call.A, fact.Column) is >= 0 and var column && int.TryParse(chain.ConstantOf(call), NumberStyles.None, CultureInfo.InvariantCulture, out var length))
                {
                    foreach (var name in chain.ColumnsOf(chain.Function.Instructions[column]))
                    {
                        table.SetLength(name, length);
                    }
                }
                else if (call.Text == fact.References && chain.Before(call.A, fact.Relates) is >= 0 and var related && chain.TargetOf(related, program) is { } target)
                {
                    table.AddReference(chain.ColumnsOf(call), schema.OfModel(target)?.Name ?? target);
                }
            }
        }

        foreach (var (at, (table, columns)) in keys)
        {
            if (unique.Contains(at))
            {
                table.AddUnique(columns);
            }
            else
            {
                table.AddIndex(columns);
            }
        }
    }

    /// <summary>The model that a call in such a chain is about; null where that is not said.</summary>
    public static string? ModelAt(IrFunction function, int call, LanguageModels facts) =>
        function.Instructions[call] is { Op: Opcode.CallMethod, A: >= 0 and var of } ? facts.Fluent.Select(f => new Chain(function, call, f).ModelOf(of)).FirstOrDefault(m => m is not null) : null;

    private static IEnumerable<(Chain Chain, FluentModel Fact, Instruction Call)> Calls(ProgramModel program, LibraryModels facts)
    {
        foreach (var function in program.Functions)
        {
            foreach (var fact in facts.For(Languages.Family(function.File.Source.Language)).Fluent)
            {
                foreach (var i in function.OutgoingCalls)
                {
                    if (function.Instructions[i] is { Op: Opcode.CallMethod, Text: { } name } call && fact.Names(name))
                    {
                        yield return (new Chain(function, i, fact), fact, call);
                    }
                }
            }
        }
    }

    /// <summary>A call, and those that its object came from.</summary>
    private readonly record struct Chain(IrFunction Function, int Index, FluentModel Fact)
    {
        /// <summary>The call of the name that comes before in the chain; -1 if there is none.</summary>
        public int Before(int value, string name)
        {
            for (var steps = 0; value >= 0 && steps < MaxChain; steps++)
            {
                var instruction = Function.Instructions[value];
                if (instruction.Op is not (Opcode.CallMethod or Opcode.Cast))
                {
                    return -1;
                }

                if (instruction.Op == Opcode.CallMethod && instruction.Text == name)
                {
                    return value;
                }

                value = instruction.A;
            }

            return -1;
        }

        /// <summary>The class whose table the chain is about: named where it begins, where the function that it stands in is handed over, or by the parameter's type.</summary>
        public string? ModelOf(int value)
        {
            for (var steps = 0; value >= 0 && steps < MaxChain; steps++)
            {
                var instruction = Function.Instructions[value];
                switch (instruction.Op)
                {
                    case Opcode.Cast when instruction.Text is ['o', 'f', ':', .. var model]:
                        return model;
                    case Opcode.CallMethod or Opcode.Cast:
                        value = instruction.A;
                        break;
                    case Opcode.Parameter:
                        return Function.Parameters[instruction.A].Type is { Arguments: [var of] } type && IrClass.ShortOf(type.Name) == Fact.ConfiguredBy ? of.Name : ModelAround();
                    default:
                        return null;
                }
            }

            return null;
        }

        private string? ModelAround()
        {
            if (Function.Outer is not { } outer)
            {
                return null;
            }

            for (var i = 0; i < outer.Instructions.Length; i++)
            {
                if (outer.Instructions[i] is { Op: Opcode.Cast, Text: ['o', 'f', ':', .. var model], A: >= 0 and var made } && outer.Instructions[made] is { Op: Opcode.CallMethod } call)
                {
                    foreach (var operand in outer.List(call))
                    {
                        if (outer.Instructions[operand.Value] is { Op: Opcode.Function, A: var inner } && outer.File.Functions[inner] == Function)
                        {
                            return model;
                        }
                    }
                }
            }

            return null;
        }

        public string? ConstantOf(Instruction call) =>
            Function.List(call) is [var first, ..] && Function.Instructions[first.Value] is { Op: Opcode.Constant, Text: { } text } ? text : null;

        public string? TextOf(Instruction call) => ConstantOf(call) is { Length: > 0 } text ? text : null;

        /// <summary>The columns that a call is told: by texts, or by functions that read the members.</summary>
        public List<string> ColumnsOf(Instruction call)
        {
            var columns = new List<string>();
            foreach (var operand in Function.List(call))
            {
                var given = Function.Instructions[operand.Value];
                if (given is { Op: Opcode.Constant, Text: { } text })
                {
                    columns.Add(text);
                }
                else if (given.Op == Opcode.Function)
                {
                    columns.AddRange(MembersIn(Function.File.Functions[given.A]));
                }
            }

            return columns;
        }

        private static IEnumerable<string> MembersIn(IrFunction reader) => reader.Instructions.Where(i => i.Op == Opcode.GetField).Select(i => i.Text!);

        /// <summary>The class of the member that a relation is made over.</summary>
        public string? TargetOf(int relation, ProgramModel program)
        {
            if (Function.List(Function.Instructions[relation]) is [var first, ..] && Function.Instructions[first.Value] is { Op: Opcode.Function, A: var reader }
                && MembersIn(Function.File.Functions[reader]).FirstOrDefault() is { } member && ModelOf(Function.Instructions[relation].A) is { } model
                && program.FindClass(model, Function.File) is { } type)
            {
                return type.Fields.FirstOrDefault(f => f.Name == member)?.Type?.Name.TrimEnd('?');
            }

            return null;
        }
    }
}
