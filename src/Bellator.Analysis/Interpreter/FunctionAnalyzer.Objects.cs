using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>Objects that calls change in place: what became of them is part of the state, not of the instruction that made them.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Of calls that give back the object they are called on, the instruction that made it.</summary>
    private readonly Dictionary<int, int> _self = [];

    /// <summary>The object itself learns something: its uses behind this one see it, and those on other ways do not.</summary>
    private void UpdateReceiver(CallSite site, AbstractValue updated)
    {
        var receiver = _function.Instructions[site.Index].Op == Opcode.CallMethod ? _function.Instructions[site.Index].A : -1;
        if (receiver >= 0 && _values[receiver] is not null && (site.Receiver.Types.Count > 0 || site.Receiver.Fields is not null))
        {
            _state = _state.WithObject(ObjectOf(receiver), updated);
        }
    }

    /// <summary>The call gives back the object that it is called on, as calls in a chain do.</summary>
    private void NoteSelf(CallSite site)
    {
        if (_function.Instructions[site.Index] is { Op: Opcode.CallMethod, A: >= 0 and var receiver })
        {
            _self[site.Index] = ObjectOf(receiver);
        }
    }

    /// <summary>The instruction that made the object which another one gives back.</summary>
    private int ObjectOf(int value) => _self.Count > 0 && _self.TryGetValue(value, out var made) ? made : value;
}
