namespace Bellator.Analysis.Libraries;

/// <summary>What a call does. Argument positions count from 0; -1 is the object the method is called on.</summary>
public sealed class CallModel
{
    /// <summary>Type of the result, or several with commas; <c>self</c> for the object itself, <c>row</c> for a database row, <c>rows</c> for many.</summary>
    public string? Returns
    {
        get;
        set
        {
            field = value;
            ReturnTypes = value?.Split(',', StringSplitOptions.TrimEntries) ?? [];
        }
    }

    internal IReadOnlyList<string> ReturnTypes { get; private set; } = [];

    /// <summary>The result is an object of the program's only class that is derived from this one of the library.</summary>
    public string? ReturnsOwn { get; set; }

    /// <summary>The result is the program's only class that is derived from one of these of the library, or where there is none the last of them.</summary>
    public List<string> ReturnsClass { get; set; } = [];

    /// <summary>The result is a request value of this kind; its name is the constant argument <see cref="Named"/>.</summary>
    public string? Source { get; set; }

    public int? Named { get; set; }

    /// <summary>Where there is no such setting or item, and no value to take its place, the program stops.</summary>
    public bool MissingFails { get; set; }

    /// <summary>The name that the request has for the source: the header that is read.</summary>
    public string? SourceName { get; set; }

    /// <summary>Positions in which the source is harmless to begin with.</summary>
    public List<string> SafeFor { get; set; } = [];

    /// <summary>Positions in which the result is harmful again.</summary>
    public List<string> UnsafeAgain { get; set; } = [];

    /// <summary>The class gets a method of its own: its name and body are these two arguments.</summary>
    public List<int> Defines { get; set; } = [];

    /// <summary>With <see cref="Defines"/>, or where a member is set: what the object is on which the method is called, in its body.</summary>
    public string? DefinedOn { get; set; }

    /// <summary>The first argument is a condition in SQL on the records of the receiver, the second has its values by name.</summary>
    public bool TextCondition { get; set; }

    /// <summary>With a result that is narrowed to some columns: it is not where nothing is given, or this as the first argument.</summary>
    public string? WholeIf { get; set; }

    /// <summary>Arguments that are carried over into the result, changed or not.</summary>
    public List<int> Propagates { get; set; } = [];

    /// <summary>Where the object is not known, the program's only method of the name is not taken for the one that is called.</summary>
    public bool NeverGuessed { get; set; }

    /// <summary>It makes an object of the class that it is called on.</summary>
    public bool Instantiates { get; set; }

    /// <summary>The first argument that stands for records is what comes out, with the conditions of the very first: <c>rows(self.get_queryset(), self.queryset)</c>.</summary>
    public bool FirstRecords { get; set; }

    /// <summary>The argument comes out as it went in but for blanks or case.</summary>
    public int? ReturnsArgument { get; set; }

    /// <summary>The result can do no harm anywhere: <c>number</c>, <c>digest</c>, <c>random</c>, <c>flag</c>.</summary>
    public string? Sanitizes { get; set; }

    /// <summary>The result is harmless if an argument is one of these constants.</summary>
    public SanitizesIfModel? SanitizesIf { get; set; }

    public EscapeModel? Escape { get; set; }

    public FormatModel? Format { get; set; }

    /// <summary>Replaces one text by another: arguments what, by what, in what. Doubling a quote, or putting a backslash before it, escapes it.</summary>
    public List<int> Replace { get; set; } = [];

    /// <summary>Replaces what a pattern finds: arguments pattern, by what, in what. Where it finds all but harmless signs, the result is harmless.</summary>
    public List<int> RemovesMatches { get; set; } = [];

    public JoinModel? Join { get; set; }

    public QueryModel? Query { get; set; }

    /// <summary>Runs the statement that the object carries.</summary>
    public RunModel? Run { get; set; }

    /// <summary>Binds one value to the statement that the object carries.</summary>
    public BindModel? Bind { get; set; }

    public TestModel? Test { get; set; }

    public HashModel? Hash { get; set; }

    /// <summary>The argument joins what the object digests.</summary>
    public int? Update { get; set; }

    /// <summary>Gives the digest of all that was fed.</summary>
    public bool Digest { get; set; }

    /// <summary>Puts the second argument on the object under the name in the first, for all of the program: <c>app.set('db', db)</c>.</summary>
    public List<int> SetsMember { get; set; } = [];

    /// <summary>With this argument alone, gives what was put on the object under the name in it.</summary>
    public int? GetsMember { get; set; }

    /// <summary>A comparison of two values.</summary>
    public List<int> Compare { get; set; } = [];

    /// <summary>The comparison ends at the first difference, as operators do.</summary>
    public bool ComparesEarly { get; set; }

    /// <summary>The digest of this argument that only who has the key can make: a message authentication code.</summary>
    public int? Mac { get; set; }

    /// <summary>A correct check of a password against its hash.</summary>
    public VerifyModel? Verify { get; set; }

    public ConnectModel? Connect { get; set; }

    /// <summary>Turns text into another form that anyone can turn back: <c>base64</c>, <c>hex</c>.</summary>
    public string? Encode { get; set; }

    /// <summary>The object comes out in another spelling if the first argument is one of these.</summary>
    public List<string> EncodesAs { get; set; } = [];

    /// <summary>The call has work done later, by a queue: see <see cref="RunsModel"/>.</summary>
    public RunsModel? Runs { get; set; }

    /// <summary>A class of the program's own answers whether the person may: see <see cref="PolicyCallModel"/>.</summary>
    public PolicyCallModel? AsksPolicy { get; set; }

    /// <summary>The first of these arguments names what may be done to records, and the second is the function that says who may.</summary>
    public List<int> DefinesAbility { get; set; } = [];

    /// <summary>Reversible encryption of argument 0.</summary>
    public int? Encrypt { get; set; }

    public CallbackModel? Callback { get; set; }

    /// <summary>The call never comes back: it throws or ends the program.</summary>
    public bool NoReturn { get; set; }

    /// <summary>The arguments become further elements of the object.</summary>
    public bool Append { get; set; }

    /// <summary>The result is the list of this argument's keys.</summary>
    public int? Keys { get; set; }

    /// <summary>The result has this argument's values as keys.</summary>
    public int? ValuesToKeys { get; set; }

    /// <summary>The result is an object that has the arguments under these names.</summary>
    public List<string> ArgumentsAs { get; set; } = [];

    /// <summary>The result has the parts of the first of these arguments that is given; -1 for those of the object. A record that was just made, say.</summary>
    public List<int> CopiesFields { get; set; } = [];

    /// <summary>But not where the object, or what it was made with, has a part of this name, which decides itself what is shown.</summary>
    public string? CopiesFieldsUnless { get; set; }

    /// <summary>The result is the first of these arguments, with only the keys of the second.</summary>
    public List<int> SelectKeys { get; set; } = [];

    /// <summary>The part of the object under this argument's key; everything in it if the key is not known.</summary>
    public int? Item { get; set; }

    /// <summary>The argument that comes back where there is no such part.</summary>
    public int? Otherwise { get; set; }

    /// <summary>The arguments are conditions on the records that the receiver stands for, named or written with its columns: <c>filter(Hive.keeper_id == me)</c>. They hold for what is done with the result.</summary>
    public bool Conditions { get; set; }

    /// <summary>The call states a condition on columns, which stand among its arguments: <c>eq(hives.id, id)</c>, <c>and(…)</c>.</summary>
    public ConditionKind? States { get; set; }

    /// <summary>The query that it gives carries a condition: the first argument names the column, or is an object of columns, and the last is what it is held against.</summary>
    public bool ColumnCondition { get; set; }

    /// <summary>The query that it gives also finds what its conditions so far do not.</summary>
    public bool Alternative { get; set; }

    /// <summary>The alternative is a condition that stands beside those before with OR.</summary>
    public bool Widens { get; set; }

    /// <summary>What the call writes into its last argument is an element of the receiver, under the key of argument 0: <c>map.TryGetValue(key, out var value)</c>.</summary>
    public bool FillsElement { get; set; }

    /// <summary>The argument is added to the text that the object holds; the result is the object.</summary>
    public int? AppendsText { get; set; }

    /// <summary>The results of the function that is handed over are the elements of the result.</summary>
    public bool Elements { get; set; }

    /// <summary>The result is the list of the keys of this argument with their values.</summary>
    public int? Pairs { get; set; }

    /// <summary>The object is a list of lists; the result has what stands at the same place of each together.</summary>
    public bool Transpose { get; set; }

    /// <summary>The arguments are joined as text.</summary>
    public bool Concat { get; set; }

    /// <summary>Of the object only the parts named by the arguments from here on come out.</summary>
    public int? Allow { get; set; }

    /// <summary>As <see cref="Allow"/>, for the part of the object that a named argument is called after; without one the part that the argument names.</summary>
    public bool Expect { get; set; }

    /// <summary>The result tells of the program's inside: the way by which an error came.</summary>
    public bool StackTrace { get; set; }

    /// <summary>The result is the object with this type instead of its own.</summary>
    public string? Becomes { get; set; }

    /// <summary>The result is the object with another type if an argument is strict enough.</summary>
    public NarrowModel? Narrow { get; set; }

    /// <summary>The result is a schema for the request value of this part whose name is argument 0.</summary>
    public string? Chain { get; set; }

    /// <summary>The result is a list of schemas for request values, written as a table.</summary>
    public ChainsModel? Chains { get; set; }

    /// <summary>The result is a schema for the member that the function at this argument reads.</summary>
    public int? Member { get; set; }

    public CheckedModel? Checked { get; set; }

    /// <summary>The call tells how the check went that made its object: this answer means that all was accepted.</summary>
    public bool? Verdict { get; set; }

    public List<SinkModel> Sinks { get; set; } = [];

    /// <summary>The result is an object of its own, to which routes, paths and guards are added later.</summary>
    public bool Allocates { get; set; }

    /// <summary>This holds even where the program has a method of the name.</summary>
    public bool OverridesProgram { get; set; }

    /// <summary>The result is the module that this argument names.</summary>
    public int? Module { get; set; }

    /// <summary>The result carries this argument: a path, say, for a later call.</summary>
    public int? StoresArgument { get; set; }

    /// <summary>The result is this argument written out as text, with all that it has: JSON. -1 is the object that the method is of.</summary>
    public int? Serializes { get; set; }

    /// <summary>The arguments from here on name parts that the object has no more.</summary>
    public int? RemovesFields { get; set; }

    public LoadsModel? Loads { get; set; }

    public RenderModel? Render { get; set; }

    /// <summary>The argument that names what the options among the others are set for, in the whole program.</summary>
    public int? Settings { get; set; }

    /// <summary>The argument may announce the kind of content that follows.</summary>
    public int? ContentType { get; set; }

    /// <summary>The call says what kind of content the answer is.</summary>
    public AnnouncedModel? Announces { get; set; }

    /// <summary>It says whether the kind of content was sent already.</summary>
    public bool AsksWhetherSent { get; set; }

    /// <summary>Names of the parameters, so that named arguments find their positions.</summary>
    public List<string> Names { get; set; } = [];

    /// <summary>The argument that is a function, or its name, run on each of what passes.</summary>
    public int? Mapper { get; set; }

    /// <summary>Arguments that the call fills in, with the type they get.</summary>
    public Dictionary<int, string> Fills { get; set; } = [];

    internal RouteModel? Route { get; set; }

    internal MountModel? Mount { get; set; }

    internal GuardModel? Guard { get; set; }

    internal AccessModel? Access { get; set; }

    internal RecordModel? Model { get; set; }

    internal RandomModel? Random { get; set; }

    internal IReadOnlyList<ProvidedJourneyModel> Provided { get; set; } = [];

    internal ColumnTypeModel? Column { get; set; }

    internal KeyModel? Key { get; set; }

    /// <summary>It takes columns or a table away, or renames them.</summary>
    internal ChangeModel? Change { get; set; }

    internal IReadOnlyList<JourneyStepModel> JourneySteps { get; set; } = [];

    /// <summary>It tells of routes, records or journeys.</summary>
    /// <summary>It puts conditions on the records of the receiver, in one way or another.</summary>
    internal bool HasConditions => Conditions || ColumnCondition || Alternative || TextCondition;

    internal bool IsOfSurface => Route is not null || Mount is not null || Guard is not null || Access is not null || Model is not null || Column is not null || Key is not null || Change is not null || Random is not null || Provided.Count > 0 || Allocates || Module is not null || StoresArgument is not null || JourneySteps.Count > 0;

    /// <summary>Nothing else is known of the call: what it does with values is anybody's guess.</summary>
    internal bool IsOnlyOfSurface { get; set; }

    internal CallModel Copy() => (CallModel)MemberwiseClone();

    /// <summary>Dialect of the file it came from.</summary>
    internal string Dialect { get; set; } = "";

    internal string Library { get; set; } = "";
}
