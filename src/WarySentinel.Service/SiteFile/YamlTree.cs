using WarySentinel.Core;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace WarySentinel.Service.SiteFile;

/// <summary>A piece of a YAML file with its place: a value, a list, or names with values. One entry is held at a time, however long the file.</summary>
internal sealed class YamlNode
{
    private const int MostLevels = 40;

    public string? Value { get; private init; }

    public List<YamlNode>? List { get; private init; }

    public List<(string Name, YamlNode Key, YamlNode Value)>? Map { get; private init; }

    /// <summary>From 1.</summary>
    public int Line { get; private init; }

    /// <summary>From 1, of the first character of the value itself, quotes apart.</summary>
    public int Column { get; private init; }

    /// <summary>Reads the next piece. Throws <see cref="YamlException"/> on what is no YAML, on aliases and on a name that stands twice.</summary>
    public static YamlNode Read(IParser parser, int depth = 0)
    {
        RefuseDepth(parser, depth);
        var at = parser.Current!.Start;
        var (line, column) = ((int)at.Line, (int)at.Column);
        if (parser.Current is AnchorAlias || parser.Current is NodeEvent { Anchor.IsEmpty: false })
        {
            throw new YamlException(at, parser.Current.End, Words.Of("apply.alias"));
        }

        if (parser.TryConsume<Scalar>(out var scalar))
        {
            var isNothing = scalar.Style == ScalarStyle.Plain && scalar.Value is "" or "~" or "null";
            return new YamlNode
            {
                Value = isNothing ? null
                : scalar.Value, Line = line, Column = column + (scalar.Style is ScalarStyle.DoubleQuoted or ScalarStyle.SingleQuoted ? 1 : 0)
            };
        }

        if (parser.TryConsume<SequenceStart>(out _))
        {
            var list = new List<YamlNode>();
            while (!parser.TryConsume<SequenceEnd>(out _))
            {
                list.Add(Read(parser, depth + 1));
            }

            return new YamlNode { List = list, Line = line, Column = column };
        }

        parser.Consume<MappingStart>();
        var map = new List<(string, YamlNode, YamlNode)>();
        var names = new HashSet<string>(StringComparer.Ordinal);
        while (!parser.TryConsume<MappingEnd>(out _))
        {
            var key = Read(parser, depth + 1);
            if (!names.Add(key.Value ?? ""))
            {
                throw new YamlException(new Mark(0, key.Line, key.Column), new Mark(0, key.Line, key.Column), Words.Of("apply.twice-key", key.Value));
            }

            map.Add((key.Value ?? "", key, Read(parser, depth + 1)));
        }

        return new YamlNode { Map = map, Line = line, Column = column };
    }

    /// <summary>Passes over the next piece. The parser takes time by the square of the depth, so that depth has its bound here too.</summary>
    public static void Skip(IParser parser)
    {
        var depth = 0;
        do
        {
            RefuseDepth(parser, depth);
            depth += parser.Consume<ParsingEvent>().NestingIncrease;
        }
        while (depth > 0);
    }

    private static void RefuseDepth(IParser parser, int depth)
    {
        if (depth > MostLevels)
        {
            throw new YamlException(parser.Current!.Start, parser.Current.End, Words.Of("apply.deep", MostLevels));
        }
    }
}
