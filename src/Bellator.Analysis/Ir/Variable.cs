using Bellator.Syntax;

namespace Bellator.Analysis.Ir;

/// <summary>A declared variable, and whether functions inside its own use or change it.</summary>
internal sealed class Variable(string name, FunctionDeclaration? owner)
{
    public string Name { get; } = name;

    /// <summary>Null for the top level of the file.</summary>
    public FunctionDeclaration? Owner { get; } = owner;

    public bool Captured { get; set; }

    public bool WrittenInside { get; set; }

    /// <summary>Visible to other files by name (PHP's top level and <c>global</c>).</summary>
    public bool Shared { get; init; }

    public int Cell { get; set; } = -1;
}
