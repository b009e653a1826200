using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>What a guard on the way to a handler asks for.</summary>
public enum Requirement
{
    /// <summary>It is there, but what it asks for is not known.</summary>
    Other,

    SignIn,

    /// <summary>Sign-in or a role, but only on some ways through it.</summary>
    Perhaps,

    /// <summary>A role or right, for which one must be signed in.</summary>
    Role,

    /// <summary>It says that nothing is asked for, whatever else stands on the way.</summary>
    Open,

    Throttle,

    /// <summary>A token against forged requests.</summary>
    Forgery,

    /// <summary>It says that no token against forged requests is asked for.</summary>
    ForgeryOff,
}

/// <summary>Something that a request must pass before the handler, or before what it does with records.</summary>
public sealed record Middleware(string Name, Requirement Asks, Location At, IrFunction? Function = null)
{
    /// <summary>It holds whatever is said closer to the handler.</summary>
    public bool Overrides { get; init; }
}

public enum SignInNeed
{
    /// <summary>Anybody reaches it.</summary>
    NotNeeded,
    Needed,

    /// <summary>There are guards whose meaning is not known.</summary>
    Unclear,
}

/// <summary>An address of the application and the function that answers there.</summary>
/// <param name="Method">HTTP method; an asterisk for any.</param>
/// <param name="Path">With parameters in braces.</param>
/// <param name="Handler">Null where it is not in the material.</param>
/// <param name="At">Where the address is declared.</param>
/// <param name="By">The library whose facts say so.</param>
public sealed record EntryPoint(string Method, string Path, IrFunction? Handler, string HandlerName, Location At, string By, IReadOnlyList<Middleware> Guards)
{
    /// <summary>Method and path, as findings name it.</summary>
    public string Address => Method == "*" ? Path : $"{Method} {Path}";

    public SignInNeed SignIn =>
        Guards.Any(g => g.Asks is Requirement.SignIn or Requirement.Role) && Guards.All(g => g.Asks != Requirement.Open) ? SignInNeed.Needed
        : Guards.Any(g => g.Asks == Requirement.Perhaps || (g.Asks == Requirement.Other && g.Function is null)) ? SignInNeed.Unclear : SignInNeed.NotNeeded;
}

public enum RecordAction
{
    List,
    View,
    Create,
    Edit,
    Delete,
}

/// <summary>One use of a table.</summary>
/// <param name="Columns">Columns that are written, or compared where the records are chosen.</param>
/// <param name="How">The statement or call, shortened.</param>
/// <param name="Function">Where it happens.</param>
public sealed record TableAccess(string Table, RecordAction Action, IReadOnlyList<string> Columns, string How, Location At, IrFunction Function, bool IsGuess);
