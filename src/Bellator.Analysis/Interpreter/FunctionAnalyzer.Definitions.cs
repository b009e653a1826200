using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>Methods that objects get while the program runs.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Before the name of a method that a class defines by a call, whichever class it is.</summary>
    private const string Defined = "<defined>";

    /// <summary>What a function is called on that is no method of a class.</summary>
    private const string CalledOn = "<called on>";

    /// <summary>Objects get a method that no class declares; in its body the object is of the type.</summary>
    private void Define(string name, AbstractValue body, string? on)
    {
        Keep(new StoreKey(StoreKind.Library, 0, Defined + name), body);
        foreach (var function in on is null ? [] : body.Targets.OfType<IrFunction>())
        {
            Keep(new StoreKey(StoreKind.Library, function.Id, CalledOn), AbstractValue.OfType(on!));
        }
    }

    /// <summary>A member that is set is a method, or an object of methods.</summary>
    private void DefineMembers(string member, AbstractValue value, string on)
    {
        if (value.Targets.Count > 0)
        {
            Define(member, value, on);
            return;
        }

        foreach (var (name, body) in value.Fields ?? [])
        {
            Define(name, body, on);
        }
    }
}
