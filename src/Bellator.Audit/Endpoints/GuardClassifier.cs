using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Says what a step on the way asks for: by the facts, by what its function does, and at last by its name.</summary>
internal sealed class GuardClassifier(ProgramModel program, ProgramAnalysis flow, AuthorizationChecks tests)
{
    /// <summary>Nothing is asked for, whatever stands closer to the handler.</summary>
    private const string OpenAlways = "open-always";

    public static Requirement Named(string asks) => asks switch
    {
        "sign-in" => Requirement.SignIn,
        "role" => Requirement.Role,
        "open" or OpenAlways => Requirement.Open,
        "throttle" => Requirement.Throttle,
        "forgery" => Requirement.Forgery,
        "forgery-off" => Requirement.ForgeryOff,
        _ => Requirement.Other,
    };

    /// <summary>The function that decides, where a guard is named: it itself, or the method by which a class is one.</summary>
    public IrFunction? StepNamed(Expression given, string text, IrFile file)
    {
        var named = given switch { Name or Member => text, NewExpression { Type: Name or Member } made => file.Source.Text(made.Type.Span), Call { Callee: Name or Member } made => file.Source.Text(made.Callee.Span), _ => null };
        return named is null ? null
            : (given is Call ? null : program.FindNamedFunction(named, file)) ?? (program.FindClass(named, file) is { } type ? StepOf(type, file) : null)
                ?? (given is Name && VariableOf(file, named) is { } held ? StepOf(held, file) : null);
    }

    /// <summary>What the file, or the one from which it takes the name, keeps under it.</summary>
    private AbstractValue? VariableOf(IrFile file, string name) =>
        !file.Imports.TryGetValue(name, out var import) ? flow.Shared(file, name)
        : program.Modules.Resolve(file.Source.Path, import.Module) is >= 0 and var module ? flow.Shared(program.Files[module], import.Name) : null;

    /// <summary>Begins the types of steps whose facts say what they ask for.</summary>
    private const string GuardType = "Guard.";

    /// <summary>What a value asks for that stands on the way.</summary>
    public Requirement Of(string text, AbstractValue value, IrFile file) =>
        value.Types.FirstOrDefault(t => t.StartsWith(GuardType, StringComparison.Ordinal)) is { } type ? Named(type[GuardType.Length..]) : OfStep(text, value, file);

    /// <summary>What a function asks for, and what it was made around: <c>wrap(async (req, res, next) => …)</c>.</summary>
    private Requirement OfStep(string text, AbstractValue value, IrFile file)
    {
        var step = StepOf(value, file);
        var asks = Of(text, step, file);
        if (step is null || asks == Requirement.Role || GivenFunctions.SharedIn(step, flow.SummaryOf(step).Calls).Count == 0)
        {
            return asks;
        }

        var inner = value.Payload is { Targets.Count: > 0 } wrapped && StepOf(wrapped, file) is { } given && given != step ? Of("", wrapped, file) : Requirement.Perhaps;
        return inner == Requirement.Other || Strength(inner) < Strength(asks) ? asks : inner;
    }

    /// <summary>The function that decides: the value itself, or the method by which a class is a guard.</summary>
    public IrFunction? StepOf(AbstractValue value, IrFile file) =>
        value.Targets.OfType<IrFunction>().FirstOrDefault()
        ?? value.Targets.OfType<IrClass>().Concat(value.Types.Select(program.ClassOfType).OfType<IrClass>()).Select(c => StepOf(c, file)).FirstOrDefault(s => s is not null);

    private IrFunction? StepOf(IrClass type, IrFile file) =>
        flow.Facts.For(Languages.Family(file.Source.Language)).GuardMethods.Select(m => program.FindMethod(type.Primary, m)).FirstOrDefault(m => m is not null);

    public Requirement Of(string text, IrFunction? function, IrFile file)
    {
        var facts = flow.Facts.For(Languages.Family(file.Source.Language));
        var name = text.Split('(', 2)[0].Trim();
        if (facts.Guards.TryGetValue(name, out var asks) || facts.Guards.TryGetValue(IrClass.ShortOf(name), out asks) || facts.Guards.TryGetValue(name.Split(':')[0], out asks)
            || (file.Imports.TryGetValue(name.Split('.')[0], out var import) && facts.Guards.TryGetValue(facts.Canonical(import.Module), out asks)))
        {
            if (asks != "named")
            {
                return Named(asks);
            }
        }

        if (function is not null && OfFunction(function) is var found && found != Requirement.Other)
        {
            return found;
        }

        if (function is not null && AuthorizationChecks.LetsEverybodyBy(function) && (flow.Vocabulary.TellsOfSignIn(IrClass.ShortOf(name)) || flow.Vocabulary.TellsOfForgery(name)))
        {
            // Whatever it is called.
            return Requirement.Other;
        }

        return flow.Vocabulary.TellsOfThrottle(name) ? Requirement.Throttle
            : flow.Vocabulary.TellsOfForgery(name) ? OfForgery(name)
            : flow.Vocabulary.TellsOfSignIn(IrClass.ShortOf(name)) ? Requirement.SignIn
            : function is null && flow.Vocabulary.DemandsRole(IrClass.ShortOf(name)) ? Requirement.Role
            : Requirement.Other;
    }

    private Requirement OfForgery(string name) => flow.Vocabulary.TellsOfExemption(name) ? Requirement.ForgeryOff : Requirement.Forgery;

    /// <summary>The step is a library's, and its facts say nothing of guarding: it neither asks nor refuses.</summary>
    public bool IsOfLibrary(string text, IrFile file)
    {
        var name = text.TrimStart('n', 'e', 'w', ' ').Split('(', '.')[0].Trim();
        return file.Imports.TryGetValue(name, out var import) ? program.Modules.Resolve(file.Source.Path, import.Module) < 0 : program.FindFunction(name, file) is null;
    }

    private Requirement OfFunction(IrFunction function)
    {
        if (!_byFunction.TryGetValue(function, out var asks))
        {
            _byFunction[function] = asks = flow.Facts.For(Languages.Family(function.File.Source.Language)).AnsweringGuards.Contains(function.Name) ? OfAnswer(function) : Find(function);
        }

        return asks;
    }

    private readonly Dictionary<IrFunction, Requirement> _byFunction = [];

    /// <summary>What a function asks that answers whether somebody may come in.</summary>
    public Requirement OfAnswer(IrFunction function) => _answers.Of(function);

    private readonly GuardResults _answers = new(tests, flow);
    private readonly ContinuationGuards _continuations = new(tests, flow);

    private Requirement Find(IrFunction function)
    {
        var handedOn = _continuations.Of(function);
        if (handedOn is Requirement.SignIn or Requirement.Role)
        {
            return handedOn.Value;
        }

        // A decorator's test stands in the function that it makes.
        var found = function.File.Functions.Where(f => f == function || f.Outer == function || f.Outer?.Outer == function).SelectMany(f => tests.In(f).Select(t => AuthorizationChecks.IsOnEveryWay(f, t) ? t.Asks : t.Asks == Requirement.Forgery ? Requirement.Other : Requirement.Perhaps)).ToList();
        if (found.Count == 0 && flow.Vocabulary.DemandsPerson(function.Name) && function.Blocks.Any(b => b.NeverContinues))
        {
            return Requirement.SignIn;
        }

        if (found.Count == 0 && GivesPersonOrRefuses(function))
        {
            return Requirement.SignIn;
        }

        if (found.Count == 0 && (tests.MayRefuse(function) || RefusesByCredential(function) || (!flow.Vocabulary.TellsOfSignIn(function.Name) && WrapperRefusals.Denies(function, flow.Vocabulary) && !function.Blocks.Any(b => b is { IsReachable: true, Condition: >= 0 } && tests.IsAboutForgery(function, b.Condition)))))
        {
            return Requirement.Perhaps;
        }

        if (found.Count == 0 && WrapperRefusals.In(function, flow.Vocabulary))
        {
            // It refuses somebody: whom, its name may say.
            return flow.Vocabulary.TellsOfRole(function.Name) ? Requirement.Role : flow.Vocabulary.TellsOfSignIn(function.Name) ? Requirement.SignIn : Requirement.Perhaps;
        }

        return found.Count == 0 && handedOn == Requirement.Perhaps ? Requirement.Perhaps
            : found.Contains(Requirement.Role) ? Requirement.Role : found.Contains(Requirement.SignIn) ? Requirement.SignIn : found.Contains(Requirement.Forgery) ? Requirement.Forgery : found.Contains(Requirement.Perhaps) ? Requirement.Perhaps : Requirement.Other;
    }

    /// <summary>
    /// What the function gives is the person who asks, and where there is nobody it throws: whoever is given the person has one. A
    /// function that may give nothing instead leaves that to others.
    /// </summary>
    private bool GivesPersonOrRefuses(IrFunction function) =>
        flow.SummaryOf(function).Returns is { } given && FieldAccess.DeepTaints(given).Any(t => t.Origin.Kind == OriginKind.Subject) && Throws(function)
        && function.Blocks.Where(b => b.IsReachable).SelectMany(b => b.Instructions).Select(i => function.Instructions[i]).Where(i => i.Op == Opcode.Return).All(r => r.A >= 0 && function.Instructions[r.A] is not ({ Op: Opcode.Undefined } or { Op: Opcode.Constant }));

    /// <summary>It reads a key, cookie or header by which one may be recognised, and throws on one of its ways: what it asks of that was not understood.</summary>
    private bool RefusesByCredential(IrFunction function) =>
        Throws(function) && flow.ReadsOf(function).Any(r => r.Part is "header" or "cookie" && (flow.Vocabulary.IsCredential(r.Name) || flow.Vocabulary.IsSecretToken(r.Name) || IdentifierClassifier.Parts(r.Name).Contains("key")));

    private static bool Throws(IrFunction function) =>
        function.Blocks.Any(b => b.IsReachable && (b.NeverContinues || b.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit)));

    /// <summary>A step may need others before it; more than these are not looked at.</summary>
    private const int MaxSteps = 4;

    /// <summary>Steps that a function's parameters ask for, where the facts say that a mark on a parameter names one.</summary>
    public IEnumerable<Middleware> OfParameters(IrFunction function, int depth = 0)
    {
        var facts = flow.Facts.For(Languages.Family(function.File.Source.Language));
        bool Names(Annotation mark) => facts.Guards.GetValueOrDefault(IrClass.ShortOf(mark.Name)) == "named";
        return OfMarks(function.Parameters.SelectMany(p => p.Annotations).Where(Names), function.File, depth)
            .Concat(function.Parameters.SelectMany(p => p.Type is { } type && program.NamedType(type.Name, function.File) is var (home, named) ? OfMarks(named.Marks.Where(Names), home, depth) : []))
            .Where(g => g.Asks != Requirement.Other);
    }

    /// <summary>The guards among marks on a function or class; marks on the function say more than those on its class.</summary>
    public IEnumerable<Middleware> OfMarks(IEnumerable<Annotation> marks, IrFile file, int depth = 0)
    {
        var facts = flow.Facts.For(Languages.Family(file.Source.Language));
        foreach (var mark in marks)
        {
            var at = new Location(file.Index, mark.Span.Start, mark.Span.End);
            var name = IrClass.ShortOf(mark.Name);
            if (facts.Guards.TryGetValue(name, out var asks) || facts.Guards.TryGetValue(mark.Name, out asks))
            {
                var role = mark.Arguments.Any(a => a.Name is "Roles" or "Policy") && asks == "sign-in" ? Requirement.Role : Named(asks);
                if (asks == "named")
                {
                    // What the mark is given says what it asks for.
                    foreach (var argument in mark.Arguments)
                    {
                        var text = file.Source.Text(argument.Value.Span);
                        var step = StepNamed(argument.Value, text, file);
                        yield return new Middleware($"{name}({text})", Of(text, step, file), at, step);
                        foreach (var before in step is null || depth >= MaxSteps ? [] : OfParameters(step, depth + 1))
                        {
                            yield return before;
                        }
                    }

                    continue;
                }

                yield return new Middleware(name, role, at) { Overrides = asks == OpenAlways };
            }
            else if (program.FindFunction(name, file) is { } decorator && OfFunction(decorator) is var found && found != Requirement.Other)
            {
                yield return new Middleware(name, found, at, decorator);
                if (found is Requirement.SignIn or Requirement.Role && WrapperRefusals.AsksWhatItWasGiven(decorator))
                {
                    // Beside that a test decides which it was given: of what, is not known.
                    yield return new Middleware(name, Requirement.Perhaps, at, decorator);
                }
            }
            else if (flow.Vocabulary.TellsOfThrottle(mark.Name))
            {
                yield return new Middleware(mark.Name, Requirement.Throttle, at);
            }
            else if (flow.Vocabulary.TellsOfForgery(mark.Name))
            {
                yield return new Middleware(mark.Name, OfForgery(mark.Name), at);
            }
            else if (flow.Vocabulary.TellsOfSignIn(name) || flow.Vocabulary.TellsOfRole(name))
            {
                yield return new Middleware(name, flow.Vocabulary.TellsOfRole(name) ? Requirement.Role : Requirement.SignIn, at);
            }
            else if (program.FindNamedFunction(mark.Name, file) is { Class: null, Parameters.Count: > 0 } step)
            {
                // It wraps the handler, and asks for nothing that could be read.
                yield return new Middleware(name, Requirement.Other, at, step);
            }
        }
    }

    /// <summary>Guards that a class has by its base classes, or by a field that lists them.</summary>
    public IEnumerable<Middleware> OfClass(IrClass type)
    {
        var facts = flow.Facts.For(Languages.Family(type.File.Source.Language));
        var at = new Location(type.File.Index, type.Span.Start, Math.Min(type.Span.End, type.Span.Start + 1));
        foreach (var kind in program.Kinds(type))
        {
            // What is put behind the framework's class never runs before it.
            if ((type.Brought ?? type.ActsFor?.Brought)?.BasesBehind.Contains(kind) != true && facts.Guards.TryGetValue(IrClass.ShortOf(kind), out var asks))
            {
                yield return new Middleware(IrClass.ShortOf(kind), Named(asks), at);
            }
        }

        foreach (var field in type.Primary.Fields)
        {
            if (field.Value is ObjectLiteral { IsList: true } list)
            {
                var place = new Location(type.File.Index, field.Span.Start, field.Span.End);
                foreach (var element in list.Entries)
                {
                    if (OfElement(element.Value, type.File, facts) is { } asked)
                    {
                        yield return asked with { At = place };
                    }
                }
            }
        }

        foreach (var fact in facts.ClassDefaults.Where(f => program.Kinds(type).Any(k => f.Base.Contains(IrClass.ShortOf(k))) && !SaysItself(type, f.Unless)))
        {
            foreach (var asked in Default(fact, type.File.Source.Language).Where(a => facts.Guards.ContainsKey(IrClass.ShortOf(a))))
            {
                yield return new Middleware($"{fact.Key}: {IrClass.ShortOf(asked)}", Named(facts.Guards[IrClass.ShortOf(asked)]), at);
            }
        }
    }

    /// <summary>What an element of a list of guards asks: a library's, a class of the program's, or two of these of which both or one must let in.</summary>
    private Middleware? OfElement(Expression element, IrFile file, LanguageModels facts)
    {
        var text = file.Source.Text(element.Span);
        if (element is Binary { Operator: "&" or "|" } combined)
        {
            var sides = (Left: OfElement(combined.Left, file, facts), Right: OfElement(combined.Right, file, facts));
            if (sides is not ({ } left, { } right))
            {
                // One side was not understood, or asks nothing before the object is known.
                return (sides.Left ?? sides.Right) is not { } known ? null : combined.Operator == "&" ? known : known with { Name = text, Asks = Requirement.Perhaps };
            }

            // Of two of which one is enough, the weaker decides.
            var asks = combined.Operator == "&" == Strength(left.Asks) > Strength(right.Asks) ? left.Asks : right.Asks;
            return new Middleware(text, asks, left.At, left.Function ?? right.Function);
        }

        var at = new Location(file.Index, element.Span.Start, element.Span.End);
        if (facts.Guards.TryGetValue(IrClass.ShortOf(text), out var asked))
        {
            return new Middleware(text, Named(asked), at);
        }

        if (facts.AnsweringGuards.Count == 0 || program.FindClass(IrClass.ShortOf(text), file) is not { } own)
        {
            return null;
        }

        return facts.AnsweringGuards.Select(m => program.FindMethod(own, m)).FirstOrDefault(m => m is not null) is { } answers ? new Middleware(text, OfAnswer(answers), at, answers)
            : program.Kinds(own).Select(k => facts.Guards.GetValueOrDefault(IrClass.ShortOf(k))).FirstOrDefault(g => g is not null) is { } byBase ? new Middleware(text, Named(byBase), at) : null;
    }

    private static int Strength(Requirement asks) => asks switch
    {
        Requirement.Open => 0,
        Requirement.SignIn => 2,
        Requirement.Role => 3,
        _ => 1,
    };

    private bool SaysItself(IrClass type, string field)
    {
        for (var at = type.Primary; at is not null; at = program.BaseOf(at)?.Primary)
        {
            if (at.Fields.Any(f => f.Name == field))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>What a setting of the program lists.</summary>
    private IEnumerable<string> Default(ClassDefaultModel fact, Language language) =>
        program.Files.Where(f => f.Source.Language == language).Select(f => flow.Shared(f, fact.Setting)?.Field(fact.Key)).FirstOrDefault(v => v is not null)?.Fields?.Values.Select(v => v.Constant).OfType<string>() ?? [];
}
