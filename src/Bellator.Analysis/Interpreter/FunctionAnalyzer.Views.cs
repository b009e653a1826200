using Bellator.Analysis.Domain;
using Bellator.Analysis.Html;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Connects page templates with the code that fills them.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The name under which a template knows the one object that it shows.</summary>
    private const string ModelName = "<model>";

    private bool IsTemplate => Languages.IsTemplate(_file.Source.Language);

    private void HandToView(RenderModel render, CallSite site)
    {
        var positional = site.Names.Count == 0 ? site : site.Arranged([]);
        var name = (render.Named is { } part ? site.Option(part)?.Constant : null) ?? (render.Template is { } at ? positional.Argument(at).Constant : null);
        if (_program.Views.Find(name, _function) is not (>= 0 and var view))
        {
            return;
        }

        if (render.Included && IsTemplate)
        {
            _visit.NoteIncluded(view, _file.Index);
        }
        else
        {
            _visit.NoteShown(view);
        }

        if (render.UnescapedWithout is { } option && !IsOn(site.Option(option)))
        {
            Keep(new StoreKey(StoreKind.View, view, Unescaped), AbstractValue.OfConstant(LiteralKind.Text, render.Setting + "." + option));
        }

        if (render.Shares is [var shared, ..] && SetOn(render.Shares) is { } members)
        {
            Keep(new StoreKey(StoreKind.View, view, shared), members);
        }

        if (render.Model is { } model)
        {
            var shown = positional.Argument(model);
            Keep(new StoreKey(StoreKind.View, view, ModelName), name is not null && shown.Constant == name ? positional.Argument(model + 1) : shown);
        }

        for (var i = 0; i < site.Names.Count; i++)
        {
            if (site.Names[i] is { } given)
            {
                Keep(new StoreKey(StoreKind.View, view, given), site.Arguments[i]);
            }
        }

        foreach (var (given, value) in (render.Locals is { } locals ? site.Option(locals)?.Fields : null) ?? new Dictionary<string, AbstractValue>())
        {
            Keep(new StoreKey(StoreKind.View, view, given), value);
        }

        foreach (var (given, value) in (render.Values is { } values ? positional.Argument(values).Fields : null) ?? new Dictionary<string, AbstractValue>())
        {
            Keep(new StoreKey(StoreKind.View, view, given), value);
        }
    }

    /// <summary>A page is given this where only a setting of the program would escape what it writes: the setting's name.</summary>
    private const string Unescaped = "<unescaped>";

    private bool IsUnescaped => Given(_file.Index, Unescaped, 0) is { } page && !(page.Constant is { } setting && IsOn(_visit.Load(SettingKey(setting))));

    private static bool IsOn(AbstractValue? option) => option?.Constant == "true";

    private static StoreKey SettingKey(string setting) => new(StoreKind.View, -1, setting);

    /// <summary>Keeps what is set for the whole program.</summary>
    private void KeepSettings(string subject, CallSite site)
    {
        for (var i = 0; i < site.Names.Count; i++)
        {
            if (site.Names[i] is { } option)
            {
                Keep(SettingKey($"{subject.TrimStart(':')}.{option}"), site.Arguments[i]);
            }
        }
    }

    /// <summary>The members that the function sets on one of the objects; <c>this</c> is the one that it belongs to.</summary>
    private AbstractValue? SetOn(IReadOnlyList<string> objects)
    {
        Dictionary<string, AbstractValue>? members = null;
        for (var i = 0; i < _function.Instructions.Length; i++)
        {
            var instruction = _function.Instructions[i];
            var (name, given) = instruction.Op switch
            {
                Opcode.SetField or Opcode.WithField => (instruction.Text, instruction.B),
                Opcode.SetItem or Opcode.WithItem => (KeyName(instruction), instruction.C),
                _ => (null, -1),
            };
            if (name is not null && IsOneOf(instruction.A, objects))
            {
                members ??= new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
                members[name] = members.TryGetValue(name, out var other) ? AbstractValue.Join(other, Get(given)) : Get(given);
            }
        }

        return members is null ? null : new AbstractValue { Fields = AbstractValue.Bounded(members) };
    }

    private bool IsOneOf(int value, IReadOnlyList<string> objects) => value >= 0 && _function.Instructions[value] switch
    {
        { Op: Opcode.This } => objects.Contains("this"),
        { Op: Opcode.Global or Opcode.LoadShared or Opcode.GetField, Text: { } name } => objects.Contains(name),
        { Op: Opcode.WithField or Opcode.WithItem, A: var changed } => IsOneOf(changed, objects),
        _ => false,
    };

    /// <summary>A file that a function includes sees the function's variables.</summary>
    private void ShareWithIncluded(in Instruction include)
    {
        if (_function.IsTopLevel || _program.Program.Modules.IncludeTarget(_file, _function, include.A) is not (>= 0 and var target))
        {
            return;
        }

        foreach (var (value, name) in _function.Names)
        {
            if (name.StartsWith('$') && _values[value] is { } known && !ReferenceEquals(known, AbstractValue.Unknown))
            {
                Keep(new StoreKey(StoreKind.View, target, name[1..]), known);
            }
        }
    }

    /// <summary>A variable of the program's top level, or of the function that includes this file.</summary>
    private AbstractValue? SharedValue(string name)
    {
        var shared = _visit.LoadShared(_file, name) is { } kept ? AsGuess(kept) : null;
        return _function.IsTopLevel && _visit.Load(new StoreKey(StoreKind.View, _file.Index, name.TrimStart('$'))) is { } given ? AbstractValue.Join(shared, given) : shared;
    }

    /// <summary>What another file left in a variable of the whole program: whether that came first, and went on to here, is not known.</summary>
    private AbstractValue AsGuess(AbstractValue kept)
    {
        bool IsForeign(Taint taint) => taint is { Guessed: false, Origin.Kind: OriginKind.Request } && taint.Origin.Function != _file.Index;
        return kept.Taints.Any(IsForeign) && kept.Text is null ? kept.With(taints: [.. kept.Taints.Select(t => IsForeign(t) ? t with { Guessed = true } : t)]) : kept;
    }

    /// <summary>A value that a template uses without making it.</summary>
    private AbstractValue FromView(string name)
    {
        var plain = name.TrimStart('$');
        var given = Given(_file.Index, plain, 0);
        if (_rules.CommonJs && FromComponent(plain) is { } member)
        {
            given = AbstractValue.Join(given, member);
        }

        if (name == ModelName && ViewModels.ModelOf(_file) is { } model && _program.TypeNamed(_file, model) is ['#', ..] type && !(given?.Types.Contains(type) ?? false))
        {
            given = AbstractValue.Join(given, TypedValue(type));
        }

        if (given is null)
        {
            return AbstractValue.Unknown;
        }

        // What is handed over and brings nothing from outside is known for all that it has no name.
        return given.Name is null ? given.With(label: given.IsTainted ? name : "") : given;
    }

    /// <summary>What a page is given under the name, or those pages are that put it in.</summary>
    private AbstractValue? Given(int page, string name, int depth)
    {
        var given = _visit.Load(new StoreKey(StoreKind.View, page, name));
        foreach (var outer in depth < MaxIncludeDepth ? _visit.IncludersOf(page) : [])
        {
            given = given is null ? Given(outer, name, depth + 1) : given;
        }

        return given;
    }

    private const int MaxIncludeDepth = 3;

    /// <summary>A member of the component that a page belongs to: of the object that its file exports, or of the class beside it.</summary>
    private AbstractValue? FromComponent(string name)
    {
        if (_program.Views.ComponentOf(_file) is { } type)
        {
            return ReadClassField(type.Id, name);
        }

        var component = ReadExport(_file.Index, "default");
        if (component.Fields is null)
        {
            return null;
        }

        var data = ResultOf(component.Field("data"))?.Field(name) ?? ResultOf(component.Field("setup"))?.Field(name);
        return AbstractValue.Join(data, ResultOf(component.Field("computed")?.Field(name))) is var value && ReferenceEquals(value, AbstractValue.Unknown) ? null : value;
    }

    private AbstractValue? ResultOf(AbstractValue? function) =>
        function?.Targets.OfType<IrFunction>().FirstOrDefault() is { } called ? _visit.SummaryOf(called)?.Returns : null;
}
