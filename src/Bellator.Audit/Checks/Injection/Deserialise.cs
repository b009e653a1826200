namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value is read by a format that can make any object.</summary>
public sealed class Deserialise : SinkCheck
{
    public override string Id => "injection/deserialise";

    public override string Title => "Unsafe deserialization";

    public override IReadOnlyList<int> Cwes => [502];

    public override IReadOnlyList<string> Asvs => ["V1.5.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H";

    public override string Why =>
        "The format can name classes whose construction runs code: a prepared value runs commands on the server as it is read.";

    public override string FalsePositiveIf => "The bytes carry a signature that is checked before.";

    protected override string Kind => "deserialise";

    protected override string Happens => "is turned into objects of any class";

    protected override string LastStep => "made into objects";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Use json_decode(), or unserialize($text, ['allowed_classes' => false]).",
        "python" => "Use json.loads, or yaml.safe_load for YAML; never pickle for what comes from outside.",
        "ruby" => "Use JSON.parse, or YAML.safe_load; never Marshal.load for what comes from outside.",
        "csharp" => "Use System.Text.Json with a fixed type; never BinaryFormatter and its kin.",
        _ => "Use JSON.parse and check the shape with a schema.",
    };
}
