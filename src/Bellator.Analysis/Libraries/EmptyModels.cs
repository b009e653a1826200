using System.Collections;
using System.Collections.Concurrent;
using System.Reflection;

namespace Bellator.Analysis.Libraries;

/// <summary>Refuses what a facts file names and says nothing of: an empty member of a list or a table is null for whoever reads it.</summary>
internal static class EmptyModels
{
    private static readonly ConcurrentDictionary<Type, PropertyInfo[]> Properties = [];

    /// <exception cref="LibraryModelException">Something in it is empty; the message says what.</exception>
    public static void Refuse(LibraryModelFile file, string name)
    {
        if (Find(file, "") is { } empty)
        {
            throw new LibraryModelException($"{name}: {empty} is empty; give it a value or leave it out");
        }
    }

    /// <summary>Where something is empty, as a person would say it; null if nothing is.</summary>
    private static string? Find(object value, string where)
    {
        if (value is string or ValueType)
        {
            return null;
        }

        IEnumerable<(object? Member, string Where)> members = value switch
        {
            IDictionary table => table.Keys.Cast<object>().Select(key => (table[key], $"“{key}”{where}")),
            IEnumerable list => list.Cast<object?>().Select(member => (member, "a member" + where)),
            _ when value.GetType().Namespace == typeof(LibraryModelFile).Namespace => PropertiesOf(value.GetType()).Select(p => (p.GetValue(value), Named(p) + where)).Where(m => m.Item1 is not null),
            _ => [],
        };
        foreach (var (member, at) in members)
        {
            if (member is null)
            {
                return at;
            }

            if (Find(member, " of " + at) is { } empty)
            {
                return empty;
            }
        }

        return null;
    }

    private static string Named(PropertyInfo property) => $"“{char.ToLowerInvariant(property.Name[0])}{property.Name[1..]}”";

    private static PropertyInfo[] PropertiesOf(Type type) => Properties.GetOrAdd(type, static t => [.. t.GetProperties(BindingFlags.Public | BindingFlags.Instance).Where(p => p.CanRead && p.CanWrite && p.GetIndexParameters().Length == 0)]);
}
