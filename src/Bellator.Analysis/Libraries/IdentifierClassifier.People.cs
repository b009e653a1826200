namespace Bellator.Analysis.Libraries;

/// <summary>Names for people by what they do.</summary>
public sealed partial class IdentifierClassifier
{
    private readonly IReadOnlySet<string> _agentEndings = facts.Words("agent-endings");
    private readonly IReadOnlySet<string> _agents = facts.Words("agents");
    private readonly IReadOnlySet<string> _notAgents = facts.Words("not-agents");

    /// <summary>True for a noun for somebody who does something: <c>verifier</c>, <c>inspector</c>.</summary>
    public bool IsAgent(string noun) => _agents.Contains(noun) || (noun.Length > 4 && !_notAgents.Contains(noun) && _agentEndings.Any(e => noun.EndsWith(e, StringComparison.Ordinal)));

    /// <summary>What a method gives that only reads a member of its object, by how such methods are called: <c>getOwner</c>, <c>get_owner</c>; other names as they are.</summary>
    public string MemberOfAccessor(string name) => Parts(name) is [var first, .. { Count: > 0 } member] && _accessor.Contains(first) ? string.Join('_', member) : name;

    private readonly IReadOnlySet<string> _accessor = facts.Words("accessor");
}
