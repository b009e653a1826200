namespace Bellator.Syntax.Templates;

/// <summary>The names that a template's code gives, in its host language, to outputs and to templates put in: as short as the signs they stand for.</summary>
internal sealed record TemplateCalls(IReadOnlyList<string> Raw, IReadOnlyList<string> Escaped, IReadOnlyList<string> Included)
{
    public static TemplateCalls Php { get; } = new(["_r"], ["_"], []);

    public static TemplateCalls JavaScript { get; } = new(["$$"], ["_h", "$"], ["include"]);

    /// <summary>In a component's file the script stands beside the page, and may use the shorter names itself.</summary>
    public static TemplateCalls Component { get; } = new(["$$"], ["_h"], []);

    public static TemplateCalls Python { get; } = new(["R"], ["E"], ["I", "include"]);

    public static TemplateCalls Ruby { get; } = new([], ["_h"], []);

    /// <summary>The name that facts know, or null for an ordinary call.</summary>
    public string? MeaningOf(string name) =>
        Raw.Contains(name) ? TemplateCode.Raw : Escaped.Contains(name) ? TemplateCode.Escaped : Included.Contains(name) ? TemplateCode.Included : null;
}
