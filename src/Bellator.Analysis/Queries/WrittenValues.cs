using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Syntax;

namespace Bellator.Analysis.Queries;

/// <summary>An object or list as it is written in the code.</summary>
public sealed record WrittenTable(IrFunction In, int Instruction)
{
    /// <summary>Its entries, in the order of the code.</summary>
    public Operand[] Entries() => In.List(In.Instructions[Instruction]).ToArray();
}

/// <summary>Values that the code says by itself: constants, tables that are written out, functions, and what variables, members and files hold of these.</summary>
public sealed class WrittenValues(ProgramModel program)
{
    private const int MaxDepth = 6;

    /// <summary>What is nothing: null, undefined, an element that a table has not.</summary>
    public static readonly object Nothing = new();

    /// <summary>The value of an instruction that says it by itself; null if it does not.</summary>
    public object? Of(IrFunction function, int index) => Written(function, index, 0);

    private object? Written(IrFunction function, int index, int depth)
    {
        if (index < 0 || depth > MaxDepth)
        {
            return null;
        }

        var instruction = function.Instructions[index];
        switch (instruction.Op)
        {
            case Opcode.Undefined:
                return Nothing;
            case Opcode.Constant:
                return (LiteralKind)instruction.A switch
                {
                    LiteralKind.Text => instruction.Text ?? "",
                    LiteralKind.Number => double.TryParse(instruction.Text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : null,
                    LiteralKind.Boolean => instruction.Text is "true" or "True" or "TRUE",
                    LiteralKind.Null => Nothing,
                    _ => null,
                };
            case Opcode.Object or Opcode.List:
                return new WrittenTable(function, index);
            case Opcode.Function:
                return function.File.Functions[instruction.A];
            case Opcode.Cast:
                return Written(function, instruction.A, depth + 1);
            case Opcode.LoadCell:
                return OfCell(function.File, instruction.A, depth);
            case Opcode.GetField when function.Instructions[instruction.A].Op == Opcode.This && TypeAround(function) is { } own:
                return OfClass(own, instruction.Text ?? "", depth);
            case Opcode.GetStatic when TypeOf(function, instruction.A) is { } named:
                return OfClass(named, instruction.Text ?? "", depth);
            case Opcode.Global when TypeAround(function) is { } around && instruction.Text is { } constant:
                return OfClass(around, constant, depth);
            case Opcode.CallMethod when instruction.C == 0 && Written(function, instruction.A, depth + 1) is WrittenTable same:
                // A copy, a frozen one, its pairs.
                return same;
            case Opcode.Include:
                return program.Modules.IncludeTarget(function.File, function, instruction.A) is >= 0 and var included ? Returned(program.Files[included].Functions[0], depth) : null;
            case Opcode.Import:
                return program.Modules.Resolve(function.File.Source.Path, instruction.Text ?? "") is >= 0 and var module ? Exported(program.Files[module], function.Operands[instruction.B].Name, depth) : null;
            default:
                return null;
        }
    }

    private object? Returned(IrFunction function, int depth)
    {
        var returns = function.Instructions.Where(i => i is { Op: Opcode.Return, A: >= 0 }).ToList();
        return returns.Count == 1 ? Written(function, returns[0].A, depth + 1) : null;
    }

    private static IrClass? TypeAround(IrFunction function)
    {
        for (var at = function; at is not null; at = at.Outer)
        {
            if (at.Class is { } type)
            {
                return type;
            }
        }

        return null;
    }

    private IrClass? TypeOf(IrFunction function, int value) => value < 0 ? null : function.Instructions[value] switch
    {
        { Op: Opcode.This } or { Text: "self" or "static" or "cls" or "this" } => TypeAround(function),
        { Op: Opcode.Class, A: var index } => function.File.Classes[index],
        { Text: { Length: > 0 } name } => program.FindClass(name, function.File),
        _ => null,
    };

    /// <summary>What a constant or field of a class is set to, where that is done once.</summary>
    private object? OfClass(IrClass type, string name, int depth)
    {
        if (!_members.TryGetValue(type, out var members))
        {
            _members[type] = members = new(StringComparer.Ordinal);
            foreach (var function in type.File.Functions.Where(f => f.Class == type))
            {
                foreach (var instruction in function.Instructions)
                {
                    if (instruction is { Op: Opcode.SetStatic or Opcode.SetField or Opcode.WithField, Text: { } member } && function.Instructions[instruction.A] is { Op: Opcode.This or Opcode.Global or Opcode.Class or Opcode.Parameter })
                    {
                        members[member] = members.ContainsKey(member) ? null : (function, instruction.B);
                    }
                }
            }
        }

        return members.GetValueOrDefault(name) is var (owner, value) ? Written(owner, value, depth + 1) : null;
    }

    private readonly Dictionary<IrClass, Dictionary<string, (IrFunction Function, int Value)?>> _members = [];

    /// <summary>What a variable of the file is set to, where that is done once.</summary>
    private object? OfCell(IrFile file, int cell, int depth)
    {
        if (!_cells.TryGetValue(file, out var cells))
        {
            _cells[file] = cells = [];
            foreach (var function in file.Functions)
            {
                foreach (ref readonly var instruction in function.Instructions.AsSpan())
                {
                    if (instruction.Op == Opcode.StoreCell)
                    {
                        cells[instruction.A] = cells.ContainsKey(instruction.A) ? null : (function, instruction.B);
                    }
                }
            }
        }

        return cells.GetValueOrDefault(cell) is var (owner, value) ? Written(owner, value, depth + 1) : null;
    }

    private readonly Dictionary<IrFile, Dictionary<int, (IrFunction Function, int Value)?>> _cells = [];

    private object? Exported(IrFile file, string? name, int depth)
    {
        var top = file.Functions[0];
        foreach (var instruction in top.Instructions)
        {
            if (instruction.Op == Opcode.Export && (instruction.Text == name || (name is "*" or "" or null && instruction.Text is "default" or "module.exports")))
            {
                return Written(top, instruction.A, depth + 1);
            }
        }

        return null;
    }
}
