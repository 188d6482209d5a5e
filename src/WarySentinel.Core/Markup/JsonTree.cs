using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;

namespace WarySentinel.Core.Markup;

/// <summary>
/// JSON (RFC 8259) with the place of each of its values, so that what goes can be taken out and all else stays as it is, byte for byte. Several values
/// one after the other are read too (RFC 7464 without its marks, or one on each line).
/// </summary>
internal sealed class JsonTree
{
    private const int Deepest = 256;
    private readonly ReadOnlyMemory<byte> text;
    private readonly List<Node> nodes = [];
    private readonly Dictionary<int, byte[]?> changed = [];
    private readonly HashSet<int> around = [];

    private JsonTree(ReadOnlyMemory<byte> text) => this.text = text;

    /// <summary>A value. Those inside follow it, up to the one that <c>Next</c> says.</summary>
    /// <param name="Kind">What it is.</param>
    /// <param name="From">Where it begins, with its name.</param>
    /// <param name="Value">Where it begins itself.</param>
    /// <param name="To">One past its end.</param>
    /// <param name="Next">The first value behind it.</param>
    /// <param name="Parent">What it stands in; -1 for nothing.</param>
    /// <param name="Place">Its place in that, from 0.</param>
    /// <param name="Name">Its name in an object.</param>
    internal record struct Node(JsonTokenType Kind, int From, int Value, int To, int Next, int Parent, int Place, string? Name);

    /// <summary>How many values there are.</summary>
    public int Count => nodes.Count;

    /// <summary>A value.</summary>
    public Node this[int at] => nodes[at];

    /// <summary>Where what was read ends.</summary>
    public int End { get; private set; }

    /// <summary>Reads JSON; null for what is none.</summary>
    /// <param name="text">The bytes, in UTF-8.</param>
    /// <param name="isOne">Whether one value is read and what follows is left alone; else all of the text has to be JSON.</param>
    public static JsonTree? Read(ReadOnlyMemory<byte> text, bool isOne)
    {
        var tree = new JsonTree(text);
        try
        {
            tree.Fill(isOne);
            return tree.Count == 0 ? null : tree;
        }
        catch (Exception fault) when (fault is JsonException or InvalidOperationException)
        {
            return null;
        }
    }

    /// <summary>The text of a string, with its escapes read; null for any other value.</summary>
    public string? TextOf(int at)
    {
        if (nodes[at].Kind != JsonTokenType.String)
        {
            return null;
        }

        var said = text.Span[nodes[at].Value..nodes[at].To];
        var reader = new Utf8JsonReader(said);
        reader.Read();
        try
        {
            return reader.GetString();
        }
        catch (InvalidOperationException)
        {
            return Unescaped(Encoding.UTF8.GetString(said[1..^1]));
        }
    }

    /// <summary>A text with halves of signs in it, as programs leave them that cut texts off (RFC 8259 §8.2).</summary>
    private static string Unescaped(string said)
    {
        var text = new StringBuilder(said.Length);
        for (var at = 0; at < said.Length; at++)
        {
            var sign = said[at] == '\\' && at + 1 < said.Length ? said[++at] : '\0';
            if (sign == 'u' && at + 4 < said.Length
                && ushort.TryParse(said.AsSpan(at + 1, 4), NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var unit))
            {
                text.Append((char)unit);
                at += 4;
                continue;
            }

            text.Append(sign switch { '\0' => said[at], 'n' => '\n', 't' => '\t', 'r' => '\r', 'b' => '\b', 'f' => '\f', _ => sign });
        }

        return text.ToString();
    }

    /// <summary>A value as one would write it into an address: text, number, yes or no; null for a list or an object.</summary>
    public string? PlainOf(int at) => nodes[at].Kind switch
    {
        JsonTokenType.String => TextOf(at),
        JsonTokenType.StartArray or JsonTokenType.StartObject or JsonTokenType.Null => null,
        _ => Encoding.UTF8.GetString(text.Span[nodes[at].Value..nodes[at].To]),
    };

    /// <summary>A value as it is written.</summary>
    public string RawOf(int at) => Encoding.UTF8.GetString(text.Span[nodes[at].Value..nodes[at].To]);

    /// <summary>Whether a value is a list.</summary>
    public bool IsList(int at) => nodes[at].Kind == JsonTokenType.StartArray;

    /// <summary>What stands in a list or an object.</summary>
    public IEnumerable<int> Inside(int at)
    {
        for (var child = at + 1; child < nodes[at].Next; child = nodes[child].Next)
        {
            yield return child;
        }
    }

    /// <summary>The outermost values.</summary>
    public IEnumerable<int> Outermost()
    {
        for (var at = 0; at < nodes.Count; at = nodes[at].Next)
        {
            yield return at;
        }
    }

    /// <summary>Takes a value out, with its name.</summary>
    public void Drop(int at) => Change(at, null);

    /// <summary>Puts an empty value of the same sort in its place, so that others keep their places.</summary>
    public void Blank(int at) => Change(at, EmptyOf(nodes[at].Kind));

    private static byte[] EmptyOf(JsonTokenType kind) => kind switch
    {
        JsonTokenType.String => "\"\""u8.ToArray(),
        JsonTokenType.StartArray => "[]"u8.ToArray(),
        JsonTokenType.StartObject => "{}"u8.ToArray(),
        _ => "null"u8.ToArray(),
    };

    /// <summary>Whether a value is taken out or emptied.</summary>
    public bool IsGone(int at) => changed.ContainsKey(at);

    /// <summary>Writes what is left.</summary>
    public void WriteTo(IBufferWriter<byte> output)
    {
        var at = 0;
        foreach (var value in Outermost())
        {
            var (next, isGone) = (nodes[value].Next, changed.TryGetValue(value, out var instead) && instead is null);
            output.Write(text.Span[at..nodes[value].From]);
            // A line goes with its end; one value alone leaves an empty one.
            at = isGone && next < nodes.Count ? nodes[next].From : nodes[value].To;
            if (!isGone || nodes[0].Next == nodes.Count)
            {
                Write(value, isGone ? EmptyOf(nodes[value].Kind) : instead, output);
            }
        }

        output.Write(text.Span[at..End]);
    }

    private void Write(int at, byte[]? instead, IBufferWriter<byte> output)
    {
        var node = nodes[at];
        if (instead is not null)
        {
            output.Write(text.Span[node.From..node.Value]);
            output.Write(instead);
            return;
        }

        if (!around.Contains(at))
        {
            output.Write(text.Span[node.From..node.To]);
            return;
        }

        var children = Inside(at).ToList();
        output.Write(text.Span[node.From..nodes[children[0]].From]);
        var isFirst = true;
        for (var n = 0; n < children.Count; n++)
        {
            var child = children[n];
            if (changed.TryGetValue(child, out var other) && other is null)
            {
                continue;
            }

            output.Write(isFirst ? default : text.Span[nodes[children[n - 1]].To..nodes[child].From]);
            Write(child, other, output);
            isFirst = false;
        }

        output.Write(text.Span[nodes[children[^1]].To..node.To]);
    }

    private void Change(int at, byte[]? instead)
    {
        changed.TryAdd(at, instead);
        for (var parent = nodes[at].Parent; parent >= 0 && around.Add(parent); parent = nodes[parent].Parent)
        {
        }
    }

    private void Fill(bool isOne)
    {
        var reader = new Utf8JsonReader(text.Span, new JsonReaderOptions
        { AllowMultipleValues = !isOne, AllowTrailingCommas = true, CommentHandling = JsonCommentHandling.Skip, MaxDepth = Deepest });
        var open = new Stack<(int At, int Count)>();
        string? name = null;
        var from = 0;
        while (reader.Read())
        {
            var start = (int)reader.TokenStartIndex;
            switch (reader.TokenType)
            {
                case JsonTokenType.PropertyName:
                    (name, from) = (reader.GetString(), start);
                    continue;
                case JsonTokenType.EndArray or JsonTokenType.EndObject:
                    var at = open.Pop().At;
                    nodes[at] = nodes[at] with { To = (int)reader.BytesConsumed, Next = nodes.Count };
                    break;
                default:
                    Add(reader.TokenType, name is null ? start : from, start, (int)reader.BytesConsumed, name, open);
                    name = null;
                    break;
            }

            End = (int)reader.BytesConsumed;
            if (open.Count == 0 && isOne)
            {
                return;
            }
        }

        End = text.Length;
    }

    private void Add(JsonTokenType kind, int from, int start, int to, string? name, Stack<(int At, int Count)> open)
    {
        var (parent, place) = (-1, 0);
        if (open.TryPop(out var outer))
        {
            (parent, place) = outer;
            open.Push((parent, place + 1));
        }

        nodes.Add(new Node(kind, from, start, to, nodes.Count + 1, parent, place, name));
        if (kind is JsonTokenType.StartArray or JsonTokenType.StartObject)
        {
            open.Push((nodes.Count - 1, 0));
        }
    }
}
