using System.Globalization;
using WarySentinel.Core;
using WarySentinel.Core.SiteFile;

namespace WarySentinel.Service.SiteFile;

/// <summary>What an entry of a site file holds.</summary>
public sealed partial class SiteFileReader
{
    /// <summary>The fields of one entry.</summary>
    private sealed class Fields
    {
        private readonly SiteFileReader reader;
        private readonly YamlNode node;

        public Fields(SiteFileReader reader, YamlNode node, IReadOnlyList<string> known)
        {
            (this.reader, this.node) = (reader, node);
            foreach (var (name, key, _) in node.Map!)
            {
                if (!known.Contains(name))
                {
                    reader.Unknown(key, known);
                }
            }
        }

        public int Line => node.Line;

        public Written<T> Written<T>(T draft)
        {
            // Kept small: only places, not the tree.
            var places = node.Map!.ToDictionary(m => m.Name, m => (m.Value.Line, m.Value.Column), StringComparer.Ordinal);
            var own = (node.Line, node.Column);
            return new Written<T>(draft, field => places.GetValueOrDefault(field.Split('.')[0], own));
        }

        /// <summary>The entry with all that stands inside it; a name or value in it that does not fit is a fault at its place.</summary>
        public Written<T> Whole<T>()
            where T : class
        {
            var read = WrittenForms.Read<T>(node);
            if (read.Problem is { } problem)
            {
                var (line, column) = WrittenForms.PlaceOf(node, problem.Faults[0].Field);
                reader.faults.Add(problem.Faults[0] with { Field = "file", Line = line, Column = column });
                return new Written<T>(null!, _ => (line, column));
            }

            return new Written<T>(read.Value, field => WrittenForms.PlaceOf(node, field));
        }

        public string? Text(string name)
        {
            var value = Find(name);
            if (value is { List: not null } or { Map: not null })
            {
                reader.Bad(value, "apply.scalar");
                return null;
            }

            return value?.Value;
        }

        public IReadOnlyList<string>? Texts(string name)
        {
            var value = Find(name);
            if (value is null or { Value: null, List: null, Map: null })
            {
                return null;
            }

            if (value.Map is not null || value.List?.Exists(v => v.Value is null) == true)
            {
                reader.Bad(value, "apply.list");
                return null;
            }

            return value.List is { } list ? [.. list.Select(v => v.Value!)] : [value.Value!];
        }

        public int? Number(string name)
        {
            if (Text(name) is not { } text)
            {
                return null;
            }

            if (int.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number))
            {
                return number;
            }

            reader.Bad(Find(name)!, "apply.number", text);
            return null;
        }

        public bool? Bool(string name)
        {
            if (Text(name) is not { } text)
            {
                return null;
            }

            if (text is "true" or "false")
            {
                return text == "true";
            }

            reader.Bad(Find(name)!, "apply.bool", text);
            return null;
        }

        public Fields? Inside(string name, IReadOnlyList<string> known)
        {
            var value = Find(name);
            if (value is null or { Value: null, List: null, Map: null })
            {
                return null;
            }

            if (value.Map is null)
            {
                reader.Bad(value, "apply.map");
                return null;
            }

            return new Fields(reader, value, known);
        }

        /// <summary>A list of entries; null where there is none.</summary>
        public IReadOnlyList<Fields>? Maps(string name, IReadOnlyList<string> known)
        {
            var value = Find(name);
            if (value is null or { Value: null, List: null, Map: null })
            {
                return null;
            }

            if (value.List is null || value.List.Exists(v => v.Map is null))
            {
                reader.Bad(value, value.List is null ? "apply.list" : "apply.map");
                return null;
            }

            return [.. value.List.Select(v => new Fields(reader, v, known))];
        }

        private YamlNode? Find(string name) => node.Map!.Find(m => m.Name == name).Value;
    }
}
