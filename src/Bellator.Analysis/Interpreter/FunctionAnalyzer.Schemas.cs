using Bellator.Analysis.Domain;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Values held against schemas, rule texts and declared members, and what is known of those that were let through.</summary>
internal sealed partial class FunctionAnalyzer
{
    private const int MaxSchemaDepth = 4;

    /// <summary>Of a class that checks others: the schemas of their members.</summary>
    private const string RulesField = "<rules>";

    /// <summary>What each call of a check vouches for if all was accepted.</summary>
    private readonly Dictionary<int, List<GuardFact>> _accepted = [];

    private List<InputCheck>? _passes;

    /// <summary>What the framework or an earlier handler has checked before the function is called.</summary>
    private void AssumeChecked()
    {
        _guards.Assume(_visit.InputChecks().Passed.Select(ToTest));
        if (_function.Class is { } owner && _visit.Entry() is { ValidatedBeforeCall.Count: > 0 } entry
            && owner.Primary.Annotations.Concat(_function.Parameters.SelectMany(p => p.Annotations)).Any(a => entry.ValidatedBeforeCall.Contains(IrClass.ShortOf(a.Name))))
        {
            _guards.Assume(DeclaredMembers());
        }

        if (_facts.RuledBy.Count == 0)
        {
            return;
        }

        foreach (var parameter in _function.Parameters)
        {
            if (parameter.Type is { } declared && _program.TypeNamed(_file, declared.Name) is ['#', ..] type && RulesOf(type) is var (rules, part))
            {
                var tests = new List<GuardFact>();
                CollectTests(rules, -1, new Origin(OriginKind.Request, part, null, -1, -1), tests, 0);
                _guards.Assume(tests);
            }
        }
    }

    /// <summary>The rules that a class of the program gives for the requests it stands for.</summary>
    private (AbstractValue Rules, string Part)? RulesOf(string type)
    {
        var owner = _program.Program.Classes[ClassNumber(type)];
        return _program.Program.OutsideBase(owner) is { } outside && _facts.RuledBy.GetValueOrDefault(OutsideName(type, outside)) is { } ruled
            && _program.Program.FindMethod(owner, ruled.Method) is { } method && _visit.SummaryOf(method)?.Returns is { } rules
            ? (rules, ruled.Part)
            : null;
    }

    private static GuardFact ToTest(InputCheck check) => new(-1, check.Safe, new Origin(OriginKind.Request, check.Part, check.Name, -1, -1));

    /// <summary>The result of holding a value against a schema.</summary>
    private AbstractValue Checked(CheckedModel check, CallModel fact, CallSite site)
    {
        if (check.By is not { } by)
        {
            var declared = _visit.InputChecks().Declared;
            _accepted[site.Index] = [.. declared.Select(ToTest), ToTest(InputCheck.Declared)];
            return check.In is null ? AbstractValue.Unknown : new AbstractValue { Fields = declared.DistinctBy(d => d.Name).ToDictionary(d => d.Name, d => DeclaredPart(d, site.Index), StringComparer.Ordinal) };
        }

        var schema = check.For is { } rules ? SchemaFor(rules, site.Argument(by)) : SchemaOf(site.Argument(by));
        var input = check.Source is { } source ? AbstractValue.OfTaints([RequestTaint(source, null, site.Index, source)]) : site.Argument(check.Value);
        var tests = new List<GuardFact>();
        foreach (var origin in input.Taints.Where(t => !t.Altered).Select(t => t.Origin).Distinct())
        {
            CollectTests(schema, site.Operand(check.Value), origin, tests, 0);
        }

        if (check.OthersPass)
        {
            tests.RemoveAll(t => t.Safe == OutputContext.Object);
        }

        _accepted[site.Index] = tests;
        if (check.Throws)
        {
            _guards.NotePassed(_function.BlockOf[site.Index], tests);
        }

        var accepted = check.Unsure ? input : Accepted(schema, input, site.Index, fact.Library, 0);
        return check.In switch
        {
            null => AbstractValue.Unknown,
            "." => accepted,
            _ => new AbstractValue { Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { [check.In] = accepted } },
        };
    }

    private AbstractValue DeclaredPart(InputCheck check, int index)
    {
        var taint = RequestTaint(check.Part, check.Name, index, check.Name);
        return new AbstractValue { Taints = [taint with { Safe = check.Safe }], Name = check.Name };
    }

    /// <summary>The schema that a value is or, for an object of a class that checks others, what its rules are.</summary>
    private AbstractValue SchemaOf(AbstractValue value) =>
        value.Types.FirstOrDefault(t => t[0] == '#') is not { } type ? value
        : RulesOf(type) is var (given, _) ? given
        : ReadClassField(ClassNumber(type), RulesField) is { } rules ? rules : value;

    /// <summary>The rules that a class of the program gives for the class whose objects a value is there for.</summary>
    private AbstractValue SchemaFor(string rules, AbstractValue value)
    {
        var of = RecordsName(value);
        return of is not null && _program.Program.RulesFor(rules, of) is { } type && ReadClassField(type.Id, RulesField) is { } schema ? schema : AbstractValue.Unknown;
    }

    /// <summary>What comes out of a schema: only the parts it names, each as harmless as its own schema makes it.</summary>
    private AbstractValue Accepted(AbstractValue schema, AbstractValue input, int index, string by, int depth)
    {
        if (depth > MaxSchemaDepth || ValidationSchema.Of(schema, _facts) is not { } known)
        {
            return input;
        }

        if (known.Elements)
        {
            var element = schema.Payload ?? FieldAccess.Element(schema.With(types: []));
            return new AbstractValue { Fields = new Dictionary<string, AbstractValue> { ["*"] = Accepted(element, FieldAccess.Element(input), index, by, depth + 1) }, Types = ["list"] };
        }

        if (!known.Parts)
        {
            return known.Safe == OutputContext.None ? input : WithCheck(input, known.Safe, index, by);
        }

        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var (name, part) in ValidationSchema.PartsOf(schema))
        {
            fields[name] = Accepted(part, FieldAccess.Read(input, name), index, by, depth + 1);
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(fields), Taints = known.Open ? input.Taints : [] };
    }

    private AbstractValue WithCheck(AbstractValue value, OutputContext safe, int index, string by)
    {
        Taint Mark(Taint t) => t with { Safe = t.Safe | safe, Trace = Trace.Add(t.Trace, StepKind.Checked, At(index), by) };
        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : AbstractValue.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }

    private void CollectTests(AbstractValue schema, int value, Origin origin, List<GuardFact> tests, int depth)
    {
        if (depth > MaxSchemaDepth || ValidationSchema.Of(schema, _facts) is not { Elements: false } known)
        {
            return;
        }

        if (!known.Parts)
        {
            if (known.Safe != OutputContext.None)
            {
                tests.Add(new GuardFact(value, known.Safe, origin));
            }

            return;
        }

        if (!known.Open)
        {
            // Nothing but the parts it names comes through, so nobody sets others.
            tests.Add(new GuardFact(value, OutputContext.Object, origin));
        }

        foreach (var (name, part) in ValidationSchema.PartsOf(schema))
        {
            CollectTests(part, value, origin.PartOf(name), tests, depth + 1);
        }
    }

    /// <summary>Notes that the part or call tells how the check went that made its object.</summary>
    private void NoteVerdict(int index, bool accepting, bool declared)
    {
        if (declared)
        {
            _guards.NoteTests(index, accepting, DeclaredMembers());
            return;
        }

        // A method of the result, or a function that is given it.
        var made = _function.Instructions[index] is { Op: Opcode.Call } call ? call.C > 0 ? _function.List(call)[0].Value : -1 : _function.Instructions[index].A;
        for (var depth = 0; depth < 4 && made >= 0; depth++)
        {
            if (_accepted.TryGetValue(made, out var tests))
            {
                _guards.NoteTests(index, accepting, tests);
                return;
            }

            if (_function.Instructions[made].Op is not (Opcode.Cast or Opcode.Unary or Opcode.CallMethod))
            {
                return;
            }

            made = _function.Instructions[made].A;
        }
    }

    /// <summary>The members by which this function's input is declared, as far as their marks check them.</summary>
    private List<GuardFact> DeclaredMembers()
    {
        var tests = new List<GuardFact>();
        foreach (var parameter in _function.Parameters)
        {
            AddMembers(parameter.Type, tests);
            AddMember(IrClass.ShortOf(parameter.Name.TrimStart('$')), parameter.Annotations, null, tests);
        }

        for (var at = _function.Class?.Primary; at is not null; at = _program.Program.BaseOf(at)?.Primary)
        {
            foreach (var field in at.Fields.Where(f => f.Annotations.Any(a => _facts.BoundFields.ContainsKey(IrClass.ShortOf(a.Name)))))
            {
                AddMembers(field.Type, tests);
                AddMember(field.Name, field.Annotations, field.Type, tests);
            }
        }

        return tests;
    }

    private void AddMembers(TypeName? declared, List<GuardFact> tests)
    {
        if (declared is null || _program.TypeNamed(_file, declared.Name) is not ['#', ..] type)
        {
            return;
        }

        for (var at = _program.Program.Classes[ClassNumber(type)].Primary; at is not null; at = _program.Program.BaseOf(at)?.Primary)
        {
            foreach (var field in at.Fields)
            {
                AddMember(field.Name, field.Annotations, field.Type, tests);
            }
        }
    }

    private void AddMember(string name, IReadOnlyList<Annotation> marks, TypeName? type, List<GuardFact> tests)
    {
        var safe = ValidationSchema.OfMarks(marks, type, _facts);
        if (safe != OutputContext.None)
        {
            tests.Add(ToTest(new InputCheck(Origin.AnyName, name, safe)));
        }
    }

    /// <summary>Where a member of the class holds only what its declaration allows: by its type, its marks, or the schema it is given.</summary>
    private OutputContext SafeMember(IrClass owner, string name)
    {
        for (var at = owner.Primary; at is not null; at = _program.Program.BaseOf(at)?.Primary)
        {
            if (at.Fields.FirstOrDefault(f => f.Name == name) is { } field)
            {
                var given = _visit.Load(new StoreKey(StoreKind.Field, at.Id, name));
                return ValidationSchema.OfMarks(field.Annotations, field.Type, _facts) | (given is not null && ValidationSchema.Of(given, _facts) is { Parts: false } schema ? schema.Safe : OutputContext.None);
            }
        }

        return OutputContext.None;
    }

    /// <summary>True if objects of the class hold only what its members' declarations allow.</summary>
    private bool ChecksItself(IrClass type) =>
        _facts.Accepts.Count > 0 && _program.Program.OutsideBase(type) is { } outside && _facts.Accepted(OutsideName("#" + type.Id, outside)) is { } accepts && accepts.Contains("parts");

    /// <summary>The request part as a form hands it on: by the members of its class.</summary>
    private AbstractValue MembersOf(AbstractValue form, string part, int index)
    {
        var fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var type in form.Types.Where(t => t[0] == '#'))
        {
            for (var at = _program.Program.Classes[ClassNumber(type)].Primary; at is not null; at = _program.Program.BaseOf(at)?.Primary)
            {
                foreach (var field in at.Fields)
                {
                    if (fields.Count < AbstractValue.MaxFields && !fields.ContainsKey(field.Name))
                    {
                        fields[field.Name] = DeclaredPart(new InputCheck(part, field.Name, SafeMember(at, field.Name) | OutputContext.Object), index);
                    }
                }
            }
        }

        return new AbstractValue { Fields = fields, Taints = [RequestTaint(part, null, index, part) with { Safe = OutputContext.Object }] };
    }

    /// <summary>The schema with another type, if the argument is as strict as that needs.</summary>
    private AbstractValue Narrowed(NarrowModel narrow, CallSite site)
    {
        var strict = (narrow.Pattern is { } pattern && site.Argument(pattern).Constant is { } text && RegexSafety.IsWholeAndHarmless(narrow.Whole ? "^" + text.TrimStart('^').TrimEnd('$') + "$" : text))
            || (narrow.List is { } list && !FieldAccess.DeepTaints(site.Argument(list)).Any(t => !t.IsParameter))
            || (narrow.By is { } by && site.Argument(by).Targets.OfType<IrFunction>().FirstOrDefault() is { } function && _visit.SummaryOf(function) is { ValidatesParameters: [0, ..] });
        return strict ? KeptRule(site.Receiver.With(types: [narrow.To])) : narrow.Otherwise is { } otherwise ? site.Receiver.With(types: [otherwise]) : site.Receiver;
    }

    /// <summary>A rule for a member is kept with the class in whose constructor it stands.</summary>
    private AbstractValue KeptRule(AbstractValue rule)
    {
        if (rule is { Payload: { Constant: { } member, Name: "member" }, Types: [var type, ..] } && _function.Class is { } owner && ValidationSchema.RuleSet(type, _facts) is { } set)
        {
            Keep(new StoreKey(StoreKind.Field, owner.Primary.Id, RulesField), new AbstractValue { Types = [set], Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { [member] = AbstractValue.OfType(type) } });
        }

        return rule;
    }

    /// <summary>The schema for a request value that the call names.</summary>
    private static AbstractValue ChainFor(string part, CallSite site) =>
        site.Argument(0).Constant is { } name ? new AbstractValue { Payload = AbstractValue.OfConstant(LiteralKind.Text, name).With(label: part) } : AbstractValue.Unknown;

    /// <summary>The schema for the member that a function reads.</summary>
    private AbstractValue MemberRule(CallSite site, int at)
    {
        var reader = site.Argument(at).Targets.OfType<IrFunction>().FirstOrDefault();
        var member = reader is null ? null : _visit.SummaryOf(reader)?.Returns?.Taints.FirstOrDefault()?.Origin.Part;
        return member is { Length: > 0 } ? new AbstractValue { Payload = AbstractValue.OfConstant(LiteralKind.Text, member).With(label: "member") } : AbstractValue.Unknown;
    }

    /// <summary>What a route says of its input: schemas among its handlers and options.</summary>
    private List<InputCheck> DeclaredInput(CallbackModel callback, CallSite site)
    {
        var checks = new List<InputCheck>();
        foreach (var argument in site.Arguments)
        {
            foreach (var schema in argument.Types.Contains("list") && argument.Fields is not null ? argument.Parts : (IEnumerable<AbstractValue>)[argument])
            {
                if (schema is { Payload: { Constant: { } name, Name: { } part } } && ValidationSchema.Of(schema, _facts) is { Parts: false } known)
                {
                    checks.Add(new InputCheck(part, name, known.Safe));
                }
            }
        }

        if (callback.Inputs is { } inputs && inputs.In.Aggregate((AbstractValue?)site.Argument(inputs.At), (at, field) => at?.Field(field)) is { } options)
        {
            foreach (var (field, part) in inputs.Parts)
            {
                var tests = new List<GuardFact>();
                if (options.Field(field) is { } schema)
                {
                    CollectTests(schema, -1, new Origin(OriginKind.Request, part, null, -1, -1), tests, 0);
                }

                checks.AddRange(tests.Where(t => t.Of!.Name is not null).Select(t => new InputCheck(part, t.Of!.Name!, t.Safe)));
            }
        }

        return checks;
    }

    /// <summary>The function hands on to the next in line: what is vouched for here holds there.</summary>
    private void NoteNext(int index)
    {
        if (_accepted.Count == 0)
        {
            return;
        }

        var here = _guards.InBlock(_function.BlockOf[index]).Where(t => t.Of is { Kind: OriginKind.Request, Name: not null }).Select(t => new InputCheck(t.Of!.Part, t.Of.Name!, t.Safe)).Distinct().ToList();
        _passes = _passes is null ? here : [.. _passes.Where(here.Contains)];
    }
}
