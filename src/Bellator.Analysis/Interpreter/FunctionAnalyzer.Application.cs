using Bellator.Analysis.Domain;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>What a program puts on objects of libraries that it has one of, for all of its code: <c>app.db = db</c>, read as <c>req.app.db</c>.</summary>
internal sealed partial class FunctionAnalyzer
{
    private static StoreKey ApplicationMemberKey(string type, string name) => new(StoreKind.Library, 0, "<application> " + type + "." + name);

    private void KeepApplicationMember(AbstractValue target, string name, AbstractValue value)
    {
        if (_facts.ApplicationState.Count > 0 && target.Types.FirstOrDefault(_facts.ApplicationState.Contains) is { } type)
        {
            Keep(ApplicationMemberKey(type, name), value);
        }
    }

    private AbstractValue? ReadApplicationMember(string type, string name) =>
        _facts.ApplicationState.Contains(type) ? _visit.Load(ApplicationMemberKey(type, name)) : null;

    /// <summary>A part that the program has put something into before it was known what the whole is: the facts tell what the part is.</summary>
    private AbstractValue OfKind(AbstractValue target, string name, AbstractValue part) =>
        _facts.ApplicationState.Count > 0 && part.Types.Count == 0 && target.Types.FirstOrDefault(_facts.ApplicationState.Contains) is { } type && _facts.Field(type, name) is { Source: null, Type: not null } fact
            ? part.With(types: fact.Types)
            : part;

    /// <summary>A call that puts a member on its object, by a name that is its argument.</summary>
    private void NoteMemberSet(CallModel fact, CallSite site)
    {
        if (fact.SetsMember is [var name, var value] && site.Argument(name).Constant is { } member)
        {
            KeepApplicationMember(site.Receiver, member, site.Argument(value));
            KeepRequestMember(site.Receiver, member, site.Argument(value));
        }
    }

    /// <summary>What a call gives that was put on its object before.</summary>
    private AbstractValue? MemberGot(CallModel fact, CallSite site) =>
        fact.GetsMember is { } at && site.Arguments.Count == at + 1 && site.Argument(at).Constant is { } member
            ? site.Receiver.Types.Select(t => ReadApplicationMember(t, member)).FirstOrDefault(v => v is not null) ?? ReadRequestMember(site.Index, site.Receiver, member)
            : null;
}
