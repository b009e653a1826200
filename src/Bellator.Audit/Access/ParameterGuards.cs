using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>Guards that come with a handler's parameters: a class of its own for what was sent, whose method the framework asks before it calls the handler.</summary>
internal static class ParameterGuards
{
    /// <summary>Where the methods stand that do more than say yes.</summary>
    public static IEnumerable<AnalysisEvent> Of(IrFunction handler, ProgramAnalysis flow)
    {
        var methods = flow.Facts.For(Languages.Family(handler.File.Source.Language)).ParameterGuards;
        foreach (var parameter in methods.Count == 0 ? [] : handler.Parameters)
        {
            if (parameter.Type is { } declared && flow.Program.FindClass(declared.Name, handler.File) is { } type
                && methods.Select(m => flow.Program.FindMethod(type, m)).FirstOrDefault(m => m is not null) is { } guard && !AlwaysAnswersYes(guard))
            {
                yield return new AnalysisEvent { Kind = EventKind.Decision, Fact = null, Function = guard, At = guard.LocationOf(0), Guessed = true, Roles = [] };
            }
        }
    }

    private static bool AlwaysAnswersYes(IrFunction guard) =>
        guard.Order.Length == 1 && guard.Blocks[guard.Order[0]].Instructions.Any(i => guard.Instructions[i] is { Op: Opcode.Return, A: >= 0 and var answer } && guard.Instructions[answer] is { Op: Opcode.Constant, Text: "true" });
}
