using System.Text.Json;
using Bellator.Analysis.Domain;

namespace Bellator.Audit.Witnesses;

/// <summary>Witnesses that are checked by resolving an address or path, and bodies that a request can carry.</summary>
public static class ValueWitness
{
    private const string Site = "https://fernhollow.example/here/page";
    private const string Elsewhere = "elsewhere.example";
    private const string Folder = "/srv/application/";

    /// <summary>An address that leaves the site, if the text allows one.</summary>
    public static Witness? Redirect(AbstractValue value, Taint taint)
    {
        foreach (var pieces in FilledText.Forms(value))
        {
            foreach (var crafted in (ReadOnlySpan<string>)[$"https://{Elsewhere}/", $"//{Elsewhere}/", $"/{Elsewhere}/", $"@{Elsewhere}/", $".{Elsewhere}/"])
            {
                var plain = Address(FilledText.Of(pieces, taint, "things"));
                var changed = Address(FilledText.Of(pieces, taint, crafted));
                if (Uri.TryCreate(new Uri(Site), changed, out var target) && target.Host.EndsWith(Elsewhere, StringComparison.Ordinal))
                {
                    return new Witness("address", crafted, plain, changed, $"From {Site} the second address leads to {target.Host}.");
                }
            }
        }

        return null;
    }

    /// <summary>An address on another host than an ordinary value leads to.</summary>
    public static Witness? ServerRequest(AbstractValue value, Taint taint)
    {
        foreach (var pieces in FilledText.Forms(value))
        {
            foreach (var crafted in (ReadOnlySpan<string>)[$"http://{Elsewhere}/", $"{Elsewhere}/", $"@{Elsewhere}/", $".{Elsewhere}/"])
            {
                var changed = FilledText.Of(pieces, taint, crafted);
                if (Uri.TryCreate(changed, UriKind.Absolute, out var target) && target.Scheme is "http" or "https" && target.Host.EndsWith(Elsewhere, StringComparison.Ordinal))
                {
                    return new Witness("address", crafted, FilledText.Of(pieces, taint, "things"), changed, $"The server asks {target.Host}.");
                }
            }
        }

        return null;
    }

    /// <summary>A name that leaves the folder in which an ordinary one stays.</summary>
    public static Witness? File(AbstractValue value, Taint taint)
    {
        const string Crafted = "../../../settings";
        foreach (var pieces in FilledText.Forms(value))
        {
            var plain = FilledText.Of(pieces, taint, "report");
            var changed = FilledText.Of(pieces, taint, Crafted);
            var inside = Path.GetDirectoryName(Path.GetFullPath(plain, Folder)) ?? Folder;
            var reached = Path.GetFullPath(changed, Folder);
            if (!reached.StartsWith(inside.TrimEnd('/') + "/", StringComparison.Ordinal))
            {
                return new Witness("file", Crafted, plain, changed, $"Resolved below {Folder}, the second name is {reached}, outside of {inside}.");
            }
        }

        return null;
    }

    /// <summary>A body in which an operator stands where a text was meant.</summary>
    public static Witness? Operator(Taint taint)
    {
        if (taint.Origin.Name is not { } name || taint.Origin.Part is not ("body" or "input" or "form" or "query"))
        {
            return null;
        }

        string Body(object value) => JsonSerializer.Serialize(new Dictionary<string, object> { [name] = value });
        var crafted = new Dictionary<string, object?> { ["$ne"] = null };
        return taint.Origin.Part is "query" or "form"
            ? new Witness("body", $"{name}[$ne]=", $"{name}=elm", $"{name}[$ne]=", "Read with brackets, the second form makes an object with an operator; the filter then holds for every record that has a value.")
            : new Witness("body", JsonSerializer.Serialize(crafted), Body("elm"), Body(crafted), "The second body makes the value an object with an operator; the filter then holds for every record that has a value.");
    }

    /// <summary>A body that sets a column which the form does not show.</summary>
    public static Witness Assignment(string? column)
    {
        var ordinary = new Dictionary<string, object> { ["name"] = "elm" };
        var crafted = new Dictionary<string, object>(ordinary) { [column ?? "role"] = "admin" };
        return new Witness("body", column ?? "role", JsonSerializer.Serialize(ordinary), JsonSerializer.Serialize(crafted), column is null
            ? "Whatever the body names is taken over; a role is only one of the columns that it could name."
            : $"“{column}” is taken over from the body like the fields of the form.");
    }

    private static string Address(string text) => text.StartsWith("location:", StringComparison.OrdinalIgnoreCase) ? text["location:".Length..].Trim() : text.Trim();
}
