using Bellator.Text;

namespace Bellator.Analysis.Ir;

/// <summary>How a language decides what a name means.</summary>
internal enum ScopeRule
{
    /// <summary>By the declaration in the nearest block around it.</summary>
    Lexical,

    /// <summary>Variables carry a dollar sign and belong to their function (PHP).</summary>
    Dollar,

    /// <summary>An assignment anywhere in a function makes the name its variable; inner functions see those of outer ones (Python).</summary>
    Assigned,

    /// <summary>As assigned, but only blocks see outer variables, methods do not (Ruby).</summary>
    AssignedPerMethod,
}

/// <summary>What lowering must know of a language beyond its syntax. A new language is one more entry here.</summary>
internal sealed record LanguageSemantics(ScopeRule Scope)
{
    /// <summary>The operator that joins texts.</summary>
    public string Join { get; init; } = "+";

    /// <summary>Classes are known everywhere by their names, without imports.</summary>
    public bool GlobalClasses { get; init; }

    /// <summary>A bare name that no variable has is a member of the object.</summary>
    public bool ImplicitReceiver { get; init; }

    /// <summary>Types are gone when the program runs: what comes from outside may be anything, whatever it is declared to be.</summary>
    public bool ErasedTypes { get; init; }

    /// <summary>What is assigned to an underscore is thrown away.</summary>
    public bool Discards { get; init; }

    /// <summary>Whatever a file defines at its top level can be imported from it.</summary>
    public bool ExportsAll { get; init; }

    /// <summary>Modules by <c>require</c> and <c>module.exports</c>.</summary>
    public bool CommonJs { get; init; }

    /// <summary>A closure belongs to the class it is written in, whatever its form.</summary>
    public bool ClosuresKeepClass { get; init; }

    /// <summary>Parts of objects are read, and objects made, by calls like any other (Ruby).</summary>
    public bool MembersAreCalls { get; init; }

    /// <summary>A percent sign between a text and values puts them in.</summary>
    public bool PercentFormats { get; init; }

    /// <summary>What is not marked public is not.</summary>
    public bool PrivateByDefault { get; init; }

    /// <summary>A class may be declared in several places without saying so.</summary>
    public bool OpenClasses { get; init; }

    /// <summary>Classes are mostly named by the last part of their names; of several the nearest is meant.</summary>
    public bool ShortClassNames { get; init; }

    /// <summary><c>==</c> converts types before it compares.</summary>
    public bool LooseEquality { get; init; }

    /// <summary><c>==</c> takes two texts that look like numbers for these numbers: <c>"1e3" == "1000"</c>.</summary>
    public bool ComparesTextAsNumbers { get; init; }

    /// <summary>A handler answers by what it returns: a response that is only made is not sent.</summary>
    public bool AnswersAreReturned { get; init; }

    /// <summary>A header or status is only noted: nothing but an exit ends the request, whichever function sends it.</summary>
    public bool OnlyExitEndsRequest { get; init; }

    /// <summary>One statement needs no braces to belong to an if, so that the next one only looks as if it did.</summary>
    public bool HasOptionalBraces { get; init; }

    /// <summary>Methods of one name and other parameters are other methods, and none takes the place of the one before it.</summary>
    public bool Overloads { get; init; }

    public bool IsAssigned => Scope is ScopeRule.Assigned or ScopeRule.AssignedPerMethod;

    private static readonly LanguageSemantics Php = new(ScopeRule.Dollar) { Join = ".", GlobalClasses = true, ClosuresKeepClass = true, LooseEquality = true, ComparesTextAsNumbers = true, OnlyExitEndsRequest = true, HasOptionalBraces = true };
    private static readonly LanguageSemantics JavaScript = new(ScopeRule.Lexical) { CommonJs = true, LooseEquality = true, ErasedTypes = true, HasOptionalBraces = true };
    private static readonly LanguageSemantics Python = new(ScopeRule.Assigned) { ExportsAll = true, PercentFormats = true, AnswersAreReturned = true };
    private static readonly LanguageSemantics Ruby = new(ScopeRule.AssignedPerMethod)
    {
        GlobalClasses = true,
        ImplicitReceiver = true,
        ClosuresKeepClass = true,
        MembersAreCalls = true,
        PercentFormats = true,
        OpenClasses = true,
        ShortClassNames = true,
    };

    private static readonly LanguageSemantics CSharp = new(ScopeRule.Lexical)
    {
        Overloads = true,
        GlobalClasses = true,
        ImplicitReceiver = true,
        Discards = true,
        ClosuresKeepClass = true,
        PrivateByDefault = true,
        ShortClassNames = true,
        HasOptionalBraces = true,
        AnswersAreReturned = true,
    };

    public static LanguageSemantics For(Language language) => Languages.Family(language) switch
    {
        "php" => Php,
        "python" => Python,
        "ruby" => Ruby,
        "csharp" => CSharp,
        _ => JavaScript,
    };
}
