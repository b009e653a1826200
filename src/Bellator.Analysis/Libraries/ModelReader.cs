using YamlDotNet.Core;
using YamlDotNet.Core.Events;
using YamlDotNet.Serialization;
using YamlDotNet.Serialization.NamingConventions;

namespace Bellator.Analysis.Libraries;

/// <summary>A facts file as it is written.</summary>
/// <param name="Name">How errors call it; those that ship begin with <c>facts/</c>.</param>
public sealed record ModelReader(string Name, string Text)
{
    /// <summary>Deeper ones are no facts, and would cost a stack.</summary>
    private const int MaxDepth = 16;

    internal const string Shipped = "facts/";

    /// <summary>One for each thread: it may not be used by two at once.</summary>
    private static readonly ThreadLocal<IDeserializer> Deserializer = new(() =>
        new DeserializerBuilder().WithNamingConvention(CamelCaseNamingConvention.Instance).WithDuplicateKeyChecking().WithEnforceNullability().Build());

    /// <summary>What is wrong with it; null if nothing is.</summary>
    public static string? ProblemOf(ModelReader facts)
    {
        try
        {
            Read(facts);
            return null;
        }
        catch (LibraryModelException e)
        {
            return e.Message;
        }
    }

    /// <exception cref="LibraryModelException">It is not valid; the message says where, and why.</exception>
    internal static LibraryModelFile Read(ModelReader facts)
    {
        var (name, text) = facts;
        try
        {
            // A test looks at those that ship.
            var isForeign = !name.StartsWith(Shipped, StringComparison.Ordinal);
            if (isForeign)
            {
                RefuseShape(facts);
            }

            var file = Deserializer.Value!.Deserialize<LibraryModelFile>(text) ?? throw new LibraryModelException($"{name}: the file is empty");
            if (isForeign)
            {
                EmptyModels.Refuse(file, name);
            }

            ModelValidator.Check(file, name, text);
            return file;
        }
        catch (YamlException e)
        {
            throw new LibraryModelException($"{name}, line {e.Start.Line}: {e.InnerException?.Message ?? e.Message}", e);
        }
        catch (InvalidOperationException e)
        {
            // The scanner's own way to give up on some texts.
            throw new LibraryModelException($"{name}: it is not YAML", e);
        }
    }

    /// <summary>References to other parts multiply what a few lines say, and nesting costs a stack: facts need neither.</summary>
    private static void RefuseShape(ModelReader facts)
    {
        var parser = new Parser(new StringReader(facts.Text));
        for (var depth = 0; parser.MoveNext();)
        {
            depth += parser.Current!.NestingIncrease;
            if (parser.Current is AnchorAlias || depth > MaxDepth)
            {
                throw new LibraryModelException($"{facts.Name}, line {parser.Current.Start.Line}: {(parser.Current is AnchorAlias ? "references to other parts are not allowed" : $"it is nested deeper than {MaxDepth}")}");
            }
        }
    }
}
