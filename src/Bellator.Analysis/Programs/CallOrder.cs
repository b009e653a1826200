using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Programs;

/// <summary>
/// An order in which most functions come after those they call, found by names alone: it need not be exact, for it only saves
/// repeated work.
/// </summary>
public static class CallOrder
{
    private const int MostMeanings = 4;

    /// <summary>
    /// The level and the position in it of each function, by its number: functions call only those of lower levels, but where calls
    /// run in circles.
    /// </summary>
    public static (int Level, int Place)[] Of(ProgramModel program)
    {
        var byName = new Dictionary<string, List<IrFunction>>(StringComparer.OrdinalIgnoreCase);
        foreach (var function in program.Functions)
        {
            if (function.Name.Length > 0 && function.Name[0] != '<')
            {
                (byName.TryGetValue(function.Name, out var list) ? list : byName[function.Name] = []).Add(function);
            }
        }

        var order = new (int Level, int Place)[program.FunctionBound];
        var seen = new bool[order.Length];
        var next = 0;
        var stack = new Stack<(int Function, IEnumerator<IrFunction> Callees)>();
        foreach (var start in program.Functions)
        {
            if (seen[start.Id])
            {
                continue;
            }

            seen[start.Id] = true;
            stack.Push((start.Id, Callees(start, byName).GetEnumerator()));
            while (stack.Count > 0)
            {
                var (function, callees) = stack.Peek();
                if (!callees.MoveNext())
                {
                    stack.Pop();
                    order[function].Place = next++;
                    if (stack.TryPeek(out var caller))
                    {
                        Raise(caller.Function, function);
                    }
                }
                else if (seen[callees.Current.Id])
                {
                    Raise(function, callees.Current.Id);
                }
                else
                {
                    seen[callees.Current.Id] = true;
                    stack.Push((callees.Current.Id, Callees(callees.Current, byName).GetEnumerator()));
                }
            }
        }

        return order;

        // Those that are not done yet, in a circle of calls, are on level 0 so far.
        void Raise(int caller, int callee) => order[caller].Level = Math.Max(order[caller].Level, order[callee].Level + 1);
    }

    private static IEnumerable<IrFunction> Callees(IrFunction function, Dictionary<string, List<IrFunction>> byName)
    {
        foreach (var (name, inner) in function.DerivedCache(f => new Called([.. CalledIn(f).Distinct()])).All)
        {
            if (inner >= 0)
            {
                yield return function.File.Functions[inner];
            }
            else if (byName.TryGetValue(name, out var callees) && callees.Count <= MostMeanings)
            {
                foreach (var callee in callees)
                {
                    yield return callee;
                }
            }
        }
    }

    /// <summary>What a function calls by name, and the functions that are written in it, in order.</summary>
    private sealed record Called((string Name, int Inner)[] All);

    private static IEnumerable<(string Name, int Inner)> CalledIn(IrFunction function)
    {
        foreach (var lead in function.OutgoingCalls)
        {
            var instruction = function.Instructions[lead];
            if (instruction.Op == Opcode.Function)
            {
                yield return ("", instruction.A);
            }

            var name = instruction.Op switch
            {
                Opcode.CallMethod or Opcode.CallStatic => instruction.Text,
                Opcode.Call => CalleeName(function.Instructions[instruction.A]),
                Opcode.New => "__construct",
                _ => null,
            };
            if (name is not null)
            {
                yield return (name, -1);
            }
        }
    }

    private static string? CalleeName(in Instruction callee) => callee.Op is Opcode.Global or Opcode.LoadCell or Opcode.GetField ? callee.Text : null;
}
