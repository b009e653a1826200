using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

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

    /// <summary>The list of an object's keys, each with its value.</summary>
    private static AbstractValue PairsOf(AbstractValue whole)
    {
        var names = AbstractValue.OfTaints([.. whole.Taints.Where(t => t.Origin.NamesItsParts)]);
        var pair = new AbstractValue { Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["0"] = names, ["1"] = FieldAccess.Element(whole) }, Types = ["list"] };
        return new AbstractValue { Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["*"] = pair }, Types = ["list"] };
    }

    /// <summary>What a member, a variable of the file or one of the whole program holds has grown in place: whoever reads it elsewhere finds that too.</summary>
    private void KeepGrown(CallSite site)
    {
        if (_function.Instructions[site.Index] is not { Op: Opcode.CallMethod, A: >= 0 and var receiver } || site.Arguments.Aggregate((AbstractValue?)null, (all, one) => AbstractValue.Join(all, one)) is not { } added)
        {
            return;
        }

        // As any element: whichever it is would grow with each look at the same call.
        var grown = new AbstractValue { Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["*"] = added }, Types = ["list"] };

        var held = _function.Instructions[receiver];
        switch (held.Op)
        {
            case Opcode.GetField:
                SetField(Get(held.A), held.Text!, grown);
                break;
            case Opcode.LoadCell:
                Keep(CellKey(held.A), grown);
                break;
            case Opcode.GetStatic when ClassOf(held.A) is { } owner:
                Keep(new StoreKey(StoreKind.Field, owner.Id, held.Text!), grown);
                break;
            case Opcode.List or Opcode.Object or Opcode.New:
                // A variable that functions inside share is written where it is declared.
                if ((_cellsMade ??= FindCellsMade()).TryGetValue(receiver, out var cell))
                {
                    Keep(CellKey(cell), grown);
                }

                break;
        }
    }

    private Dictionary<int, int>? _cellsMade;

    /// <summary>The variables that functions inside share, by the values that they begin with here.</summary>
    private Dictionary<int, int> FindCellsMade()
    {
        var found = new Dictionary<int, int>();
        foreach (var store in _function.Instructions.Where(i => i.Op == Opcode.StoreCell))
        {
            found.TryAdd(store.B, store.A);
        }

        return found;
    }

    /// <summary>The call gives back the object that it is called on, as calls in a chain do.</summary>
    private void NoteSelf(CallSite site)
    {
        if (_function.Instructions[site.Index] is { Op: Opcode.CallMethod, A: >= 0 and var receiver })
        {
            _self[site.Index] = ObjectOf(receiver);
        }
    }

    /// <summary>Numbers, below those of instructions, of the object's own members that the function sets.</summary>
    private readonly Dictionary<string, int> _ownMembers = new(StringComparer.Ordinal);

    /// <summary>A member of the object itself has this value until it is set again, or a method of the object runs.</summary>
    private void SetOwnMember(string name, AbstractValue value)
    {
        if (!_ownMembers.TryGetValue(name, out var number))
        {
            _ownMembers[name] = number = FirstOwnMember - _ownMembers.Count;
        }

        _state = _state.WithObject(number, value);
    }

    private const int FirstOwnMember = -2;

    /// <summary>What the function itself has set the member to on the ways that lead here; null where on one of them it did not, or nothing is known of it.</summary>
    private AbstractValue? OwnMember(string name) =>
        _ownMembers.TryGetValue(name, out var number) && _state.Object(number) is { } set && (set.Types.Count > 0 || set.Targets.Count > 0 || set.Fields is not null || set.Taints.Count > 0 || set.Constant is not null) ? set : null;

    /// <summary>A method of the object may set its members.</summary>
    private void ForgetOwnMembers()
    {
        foreach (var number in _ownMembers.Values)
        {
            if (_state.Object(number) is not null)
            {
                _state = _state.WithoutObject(number);
            }
        }
    }

    /// <summary>The instruction that made the object which another one gives back.</summary>
    private int ObjectOf(int value) => _self.Count > 0 && _self.TryGetValue(value, out var made) ? made : value;
}
