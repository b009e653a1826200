using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>What frameworks hand to the functions they call.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The value of a parameter that the framework fills, or null if it does not.</summary>
    private AbstractValue? EntryValue(int index, IrParameter parameter)
    {
        if (_visit.Entry() is not { } entry)
        {
            return null;
        }

        var name = parameter.Name.TrimStart('$');
        if (entry.Parameters.TryGetValue(name, out var spec))
        {
            return OfSpec(spec, index, name, parameter.Type);
        }

        foreach (var mark in parameter.Type is { } said && _program.Program.NamedType(said.Name, _file) is var (_, named) ? [.. parameter.Annotations, .. named.Marks] : parameter.Annotations)
        {
            if (entry.Marks.TryGetValue(IrClass.ShortOf(mark.Name), out var part))
            {
                return part.Length == 0 ? Provided(mark, parameter.Type, index, name, entry) : OfSpec(part, index, MarkedName(mark) ?? name, parameter.Type);
            }
        }

        if (parameter.Annotations.Any(GivesPerson))
        {
            return SubjectValue(index, name);
        }

        if (parameter.Type is { } declared && _program.TypeNamed(_file, declared.Name) is { } type && (type[0] != '#' || !IsRecord(_program.Program.Classes[ClassNumber(type)]) || IsBoundRecord(type)))
        {
            return type[0] == '#' || _facts.KnowsType(type) ? TypedValue(type) : null;
        }

        if (entry.Positions.Count > 0 && PlaceOf(parameter) is var place && place < entry.Positions.Count && entry.Positions[place] is { Length: > 0 } filled)
        {
            return OfSpec(filled, index, name, parameter.Type);
        }

        // Helpers that the program calls itself get their other parameters from there.
        return entry.Rest is { } rest && (entry.Annotated.Count > 0 || entry.Directive is not null || entry.Id is not null || !_visit.IsCalled()) ? OfSpec(entry.Records is { } records && parameter.Type is { } record && _program.TypeNamed(_file, record.Name) is ['#', ..] ? records : rest, index, name, parameter.Type) : null;
    }

    /// <summary>The framework finds the record that such a parameter is: nothing of it was sent.</summary>
    private bool IsBoundRecord(string type) => _facts.FetchesParameters && TypedValue(type).Types.Any(t => t[0] != '#' && _facts.KnowsType(t));

    private int PlaceOf(IrParameter parameter)
    {
        var place = 0;
        while (place < _function.Parameters.Count && !ReferenceEquals(_function.Parameters[place], parameter))
        {
            place++;
        }

        return place;
    }

    /// <summary>A mark that is no library's, by its name: <c>@CurrentUser() user</c>.</summary>
    private bool GivesPerson(Annotation mark) => IrClass.ShortOf(mark.Name) is var name && (_program.Vocabulary.HoldsPerson(name) || _program.Vocabulary.OfCurrent(name) is not null);

    /// <summary>What the file, or the one it takes the name from, keeps under it.</summary>
    private AbstractValue? VariableOfFile(string name) =>
        _file.Imports.TryGetValue(name, out var import) ? _program.Program.Modules.Resolve(_file.Source.Path, import.Module) is >= 0 and var module ? ReadExport(module, import.Name) : null
        : _visit.Load(new StoreKey(StoreKind.Export, _file.Index, name));

    /// <summary>Functions that the mark of a handler lists, to be called before it: <c>dependencies=[Depends(has_key)]</c>.</summary>
    private void NoteListedProviders()
    {
        if (_function.Annotations.Count == 0 || _visit.Entry() is not { Providers: { } calledAs, Route.GuardsField: { } field } entry)
        {
            return;
        }

        foreach (var listed in _function.Annotations.SelectMany(a => a.Arguments).Where(a => a.Name == field).SelectMany(a => a.Value is ObjectLiteral { IsList: true } list ? list.Entries : []))
        {
            if (listed.Value is Call { Callee: Name or Member, Arguments: [{ Name: null, Value: var named }, ..] } call && entry.Marks.ContainsKey(IrClass.ShortOf(_file.Source.Text(call.Callee.Span))) && ProviderNamed(named) is { } provider)
            {
                _visit.NoteEntry(provider, calledAs);
            }
        }
    }

    /// <summary>The function that is called: it itself, or the method by which an object of the program's is called as functions are.</summary>
    private IrFunction? ProviderNamed(Expression named)
    {
        var function = named is Name or Member ? _program.Program.FindNamedFunction(_file.Source.Text(named.Span), _file) : null;
        if (function is not null || _facts.GuardMethods.Count == 0)
        {
            return function;
        }

        var type = named is Call { Callee: Name or Member } made ? _program.Program.FindClass(_file.Source.Text(made.Callee.Span), _file)
            : named is Name variable ? VariableOfFile(variable.Text)?.Types.Where(t => t[0] == '#').Select(t => _program.Program.Classes[ClassNumber(t)]).FirstOrDefault() : null;
        return type is null ? null : _facts.GuardMethods.Select(m => _program.Program.FindMethod(type.Primary, m)).FirstOrDefault(m => m is not null);
    }

    /// <summary>In facts, the method of a type whose objects are called as functions are.</summary>
    private const string CalledItself = "()";

    /// <summary>What a framework hands over that is no part of the request itself; a class that only holds values it fills from the request.</summary>
    private AbstractValue Provided(Annotation mark, TypeName? declared, int index, string name, EntryModel entry)
    {
        if (mark.Arguments is [{ Name: null, Value: var named }, ..] && ProviderNamed(named) is { } provider)
        {
            // A function of the program's makes it; one named for the person tells who is there.
            _visit.NoteCall(provider);
            if (entry.Providers is { } calledAs)
            {
                _visit.NoteEntry(provider, calledAs);
            }

            var made = _visit.SummaryOf(provider)?.Returns is { } given ? WithoutParameters(given) : AbstractValue.Unknown;
            made = !made.IsTainted && _program.Vocabulary.HoldsPerson(provider.Name) ? AbstractValue.Join(made, SubjectValue(index, name)) : made;
            if (made.IsTainted || made.Types.Count > 0)
            {
                return made;
            }
        }

        if (mark.Arguments is [{ Name: null, Value: Name held }, ..] && VariableOfFile(held.Text) is { } provides && provides.Types.Select(t => t[0] == '#' ? null : _facts.Method(t, CalledItself)).FirstOrDefault(m => m is not null) is { } itself)
        {
            // An object of a library's: calling it reads what the request brings.
            return ApplyFact(itself, new CallSite(index, provides, [], []), false);
        }

        if (declared is null || _program.TypeNamed(_file, declared.Name) is not { } type || (type[0] != '#' && !_facts.KnowsType(type)))
        {
            return AbstractValue.Unknown;
        }

        return mark.Arguments.Count == 0 && type[0] == '#' && entry.Rest is { } rest && IsRecord(_program.Program.Classes[ClassNumber(type)]) ? OfSpec(rest, index, name, declared) : TypedValue(type);
    }

    /// <summary>What a function gives whoever calls it.</summary>
    private static AbstractValue WithoutParameters(AbstractValue given) => given.HasParameters ? given.With(taints: [.. given.Taints.Where(t => !t.IsParameter)]) : given;

    private static string? MarkedName(Annotation mark) =>
        mark.Arguments.Count > 0 && (mark.Arguments[0].Name is null or "Name" or "name") && mark.Arguments[0].Value is Literal { Kind: LiteralKind.Text } literal ? literal.Text : null;

    private AbstractValue OfSpec(string spec, int index, string name, TypeName? declared)
    {
        if (_facts.KnowsType(spec))
        {
            return AbstractValue.OfType(spec);
        }

        var type = declared is null ? null : _program.TypeNamed(_file, declared.Name);
        if (_program.Vocabulary.IsScalarType(declared?.Name))
        {
            return AsNumber([RequestTaint(spec, name, index, name)]);
        }

        if ((declared is { Arguments.Count: > 0 } && declared.Arguments.All(a => _program.Vocabulary.IsScalarType(a.Name))) || (declared is not null && type is null && !_rules.ErasedTypes && !_program.Vocabulary.IsOpenType(declared.Name)) || (type is not null && type[0] == '#' && _program.Program.Classes[ClassNumber(type)].Kind == ClassKind.Enum))
        {
            return AbstractValue.Unknown;
        }

        var taint = RequestTaint(spec, type is null ? name : null, index, name);
        if (type is ['#', ..] && DropsUndeclaredMembers)
        {
            taint = taint with { Safe = taint.Safe | OutputContext.Object };
        }

        return new AbstractValue { Taints = [taint], Types = type is null ? [] : TypedValue(type).Types, Name = name };
    }

    private Taint RequestTaint(string part, string? field, int index, string note) => new(
        new Origin(OriginKind.Request, part, field, _file.Index, -1), OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, At(index), note, null));

    /// <summary>A class that only holds values: what it is made from comes from the request, unlike a service.</summary>
    private bool IsRecord(IrClass type) =>
        type.Kind == ClassKind.Class && type.Fields.Count > 0
        && (type.Methods.Keys.All(m => m is "constructor" or "Validate" or "<body>" || m.StartsWith("get_", StringComparison.Ordinal) || m.StartsWith("set_", StringComparison.Ordinal)) || HoldsOnlyPlain(type) || ChecksItself(type));

    /// <summary>It is made from nothing, and holds texts and numbers: what methods it has are about these.</summary>
    private bool HoldsOnlyPlain(IrClass type) =>
        type.Fields.All(f => f.Type is { Arguments.Count: 0 } of && (_program.Vocabulary.IsScalarType(of.Name) || _program.Vocabulary.IsOpenType(of.Name.TrimEnd('?'))))
        && !(type.Methods.TryGetValue("constructor", out var constructor) && constructor.Parameters.Count > 0);

    /// <summary>A member that the framework fills from the request, by the mark on its declaration.</summary>
    private Taint? BoundField(IrClass type, string name)
    {
        if (_facts.BoundFields.Count == 0 || type.Fields.FirstOrDefault(f => f.Name == name) is not { } field)
        {
            return null;
        }

        foreach (var mark in field.Annotations)
        {
            if (_facts.BoundFields.TryGetValue(IrClass.ShortOf(mark.Name), out var part) && !_program.Vocabulary.IsScalarType(field.Type?.Name))
            {
                _visit.NotePlaces(type.File);
                var at = new Location(type.File.Index, field.Span.Start, field.Span.End);
                return new Taint(new Origin(OriginKind.Request, part, name, _file.Index, -1), OutputContext.None, PasswordTransform.Plain, false, false, new Trace(StepKind.Source, at, name, null));
            }
        }

        return null;
    }

    private bool HasMember(AbstractValue self, string name)
    {
        foreach (var type in self.Types)
        {
            if (type[0] != '#')
            {
                if (_facts.Field(type, name) is not null)
                {
                    return true;
                }

                continue;
            }

            for (var at = _program.Program.Classes[ClassNumber(type)]; at is not null; at = _program.Program.BaseOf(at))
            {
                if (at.Primary.Methods.ContainsKey(name) || at.Primary.Fields.Any(f => f.Name == name))
                {
                    return true;
                }
            }
        }

        return false;
    }
}
