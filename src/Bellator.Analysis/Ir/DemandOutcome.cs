namespace Bellator.Analysis.Ir;

/// <summary>When a function goes on after a call that may end the request.</summary>
public enum DemandOutcome
{
    /// <summary>Where the first argument is true: <c>abort_unless($mine, 403)</c>, <c>ctx.assert(mine, 403)</c>.</summary>
    Holds,

    /// <summary>Where the first argument is false: <c>abort_if($theirs, 403)</c>.</summary>
    Fails,

    /// <summary>Never: <c>ctx.throw(403)</c>.</summary>
    Never,

    /// <summary>Where what the call asks is answered with yes: <c>$this->authorize('view', $hive)</c>.</summary>
    Answers,
}
