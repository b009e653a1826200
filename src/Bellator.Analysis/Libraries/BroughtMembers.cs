using System.Collections.Concurrent;
using System.Reflection;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Syntax.Parsing;
using Bellator.Text;

namespace Bellator.Analysis.Libraries;

/// <summary>
/// Methods that a framework's base class brings, where the facts have them as code: each class of the program that is based on one gets
/// them behind its own, so that what the framework does for it is followed like the program's code, with the class's own parts in it.
/// </summary>
public static class BroughtMembers
{
    private static readonly ConcurrentDictionary<string, FrameworkCode> Known = new(StringComparer.Ordinal);

    public static void AddTo(IrFile file, LanguageModels facts, SyntaxParser parser)
    {
        foreach (var brings in facts.Brings)
        {
            if (file.Classes.Count == 0 || !file.Imports.Values.Any(i => brings.Imports.Contains(i.Module.Split('.', 2)[0])))
            {
                continue;
            }

            var code = Known.GetOrAdd(brings.Code, name => new FrameworkCode(name, parser));
            foreach (var type in file.Classes.Where(c => c.Kind == ClassKind.Class).ToList())
            {
                if (code.MethodsFor(type, parser) is { } methods)
                {
                    Lowering.Bring(file, type, new BroughtCode(brings.Type, methods, [.. code.Behind(type)]), Shown(type, brings.ShownAt));
                }
            }
        }
    }

    /// <summary>Where what the framework does is shown in the program: at the records it is told to use, else where the class begins.</summary>
    private static Span Shown(IrClass type, List<string> fields) =>
        fields.Select(f => type.Fields.FirstOrDefault(own => own.Name == f)).FirstOrDefault(f => f is not null)?.Span ?? type.File.Source.SpanOf(type.File.Source.LineOf(type.Span.Start));

    /// <summary>The classes of one file of framework code.</summary>
    private sealed class FrameworkCode
    {
        private readonly SourceFile _file;
        private readonly Dictionary<string, IReadOnlyList<string>> _bases;

        public FrameworkCode(string name, SyntaxParser parser)
        {
            using var stream = Assembly.GetExecutingAssembly().GetManifestResourceStream("code/" + name) ?? throw new LibraryModelException($"there is no framework code “{name}”");
            using var memory = new MemoryStream();
            stream.CopyTo(memory);
            var content = memory.ToArray();
            _file = new SourceFile(name, content, Languages.Detect(name, content));
            _bases = Read(parser).ToDictionary(c => c.Key, c => (IReadOnlyList<string>)[.. BasesOf(c.Value)], StringComparer.Ordinal);
        }

        /// <summary>What the bases of a class bring, nearest first; null if none of them is known. It is read anew each time, for it becomes part of another file.</summary>
        public IReadOnlyList<FunctionDeclaration>? MethodsFor(IrClass type, SyntaxParser parser)
        {
            var names = type.Traits.Prepend(type.Base ?? "").Select(IrClass.ShortOf).Where(_bases.ContainsKey).ToList();
            if (names.Count == 0)
            {
                return null;
            }

            var all = Read(parser);
            var methods = new Dictionary<string, FunctionDeclaration>(StringComparer.Ordinal);
            for (var i = 0; i < names.Count; i++)
            {
                foreach (var method in all[names[i]].Methods)
                {
                    methods.TryAdd(method.Name, method);
                }

                names.AddRange(_bases[names[i]].Where(b => !names.Contains(b)));
            }

            return [.. methods.Values];
        }

        /// <summary>The bases of a class behind the first that is known here.</summary>
        public IEnumerable<string> Behind(IrClass type) =>
            type.Traits.Prepend(type.Base ?? "").SkipWhile(b => !_bases.ContainsKey(IrClass.ShortOf(b))).Where(b => !_bases.ContainsKey(IrClass.ShortOf(b)));

        private Dictionary<string, ClassDeclaration> Read(SyntaxParser parser)
        {
            using var tree = parser.Parse(_file) ?? throw new LibraryModelException($"the framework code “{_file.Path}” did not parse");
            var unit = Reader.Read(tree, _file);
            NameBinder.Bind(unit);
            return unit.Body.Statements.OfType<ClassStatement>().Select(s => s.Declaration).ToDictionary(c => c.Name, StringComparer.Ordinal);
        }

        private static IEnumerable<string> BasesOf(ClassDeclaration type) => type.Base is Name first ? type.Traits.Prepend(first.Text) : [];
    }
}
