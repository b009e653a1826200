using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>
/// Code by which a record hashes its own password when it is written: a hook of the mapper, a setter, or a cast of the column. Whoever
/// gives such a record the password as typed does it right.
/// </summary>
internal static class HashingHooks
{
    /// <summary>A value in the class's list of casts that has the mapper hash the column.</summary>
    private const string HashedCast = "hashed";

    public static bool Cover(CheckContext context, AnalysisEvent writing)
    {
        var family = Languages.Family(writing.Function.File.Source.Language);
        return context.EventsOf(EventKind.Hash).Select(h => h.Function).Distinct().Any(f => Languages.Family(f.File.Source.Language) == family && !IsHandler(context, f) && (IsSetter(context, f) || ReplacesWhatItReads(context, f)))
            || context.Program.Classes.Any(c => Languages.Family(c.File.Source.Language) == family && (c.Annotations.Any(a => context.Words.MakesAccount(IrClass.ShortOf(a.Name))) || Casts(c)));
    }

    private static bool IsHandler(CheckContext context, IrFunction function) => context.Accounts.Surface.EntryPoints.Any(e => e.Handler == function);

    /// <summary>The method that sets the member: <c>password=</c>, <c>setPasswordAttribute</c>.</summary>
    private static bool IsSetter(CheckContext context, IrFunction function) =>
        function.Class is not null && context.Words.IsPassword(function.Name.TrimEnd('=')) && (function.Name.EndsWith('=') || function.Name.EndsWith("Attribute", StringComparison.Ordinal) || !function.Name.Contains("set", StringComparison.OrdinalIgnoreCase));

    /// <summary>It reads a member with a password's name, and sets it anew.</summary>
    private static bool ReplacesWhatItReads(CheckContext context, IrFunction function)
    {
        bool Has(params ReadOnlySpan<Opcode> ops)
        {
            foreach (ref readonly var i in function.Instructions.AsSpan())
            {
                if (ops.Contains(i.Op) && context.Words.IsPasswordColumn(i.Text))
                {
                    return true;
                }
            }

            return false;
        }

        return Has(Opcode.SetField, Opcode.WithField) && Has(Opcode.GetField);
    }

    private static bool Casts(IrClass type) =>
        type.Fields.Any(f => f.Value is ObjectLiteral casts && casts.Entries.Any(e => e.Value is Literal { Text: HashedCast }))
        || type.Methods.Values.Any(m => m.Instructions.Any(i => i is { Op: Opcode.Constant, Text: HashedCast }));
}
