using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace WarySentinel.Cli.Hosted;

/// <summary>A page as a file: what is set of it between two lines of three dashes (YAML), and its text in Markdown behind them.</summary>
/// <param name="Title">The title.</param>
/// <param name="Description">What it is about.</param>
/// <param name="Address">Where it stands; null for beneath its section by its name.</param>
/// <param name="Position">Where it stands among the pages of its section.</param>
/// <param name="Gate">Whom its own gate admits; <c>anyone</c> where it is open whatever its section says; null where it is as its section.</param>
/// <param name="Draft">Whether it is only kept as a draft.</param>
/// <param name="Text">The Markdown.</param>
internal sealed record PageFile(string Title, string? Description, string? Address, int? Position, string? Gate, bool Draft, string Text)
{
    private const string Fence = "---";
    private static readonly string[] Known = ["title", "description", "address", "position", "gate", "draft"];

    /// <summary>A digest of all that it says.</summary>
    public string Digest => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Write())));

    /// <summary>Reads a file. Throws <see cref="UsageException"/> with the line of what is wrong.</summary>
    public static PageFile Read(string path, string content)
    {
        content = content.ReplaceLineEndings("\n").TrimStart('\uFEFF');
        var end = content.StartsWith(Fence + "\n", StringComparison.Ordinal) ? content.IndexOf("\n" + Fence + "\n", StringComparison.Ordinal) : -1;
        if (end < 0)
        {
            throw new UsageException($"{path}:1: a page begins with a line of three dashes, its title (title: …), and three dashes again.");
        }

        var values = Values(path, content[(Fence.Length + 1)..(end + 1)]);
        var title = values.GetValueOrDefault("title");
        if (string.IsNullOrWhiteSpace(title))
        {
            throw new UsageException($"{path}:1: the page has no title.");
        }

        int? position = values.GetValueOrDefault("position") is { } place
            ? int.TryParse(place, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number) ? number
            : throw new UsageException($"{path}: position is a whole number, not “{place}”.") : null;
        var draft = values.GetValueOrDefault("draft") is { } said && (said == "true" || (said != "false"
            ? throw new UsageException($"{path}: draft is true or false, not “{said}”.") : false));
        return new PageFile(
            title, values.GetValueOrDefault("description"), values.GetValueOrDefault("address"), position, values.GetValueOrDefault("gate"), draft,
            content[(end + Fence.Length + 2)..].TrimStart('\n').TrimEnd('\n') + "\n");
    }

    /// <summary>The file.</summary>
    public string Write()
    {
        var written = new StringBuilder(Fence).Append('\n');
        void Say(string name, string? value)
        {
            if (value is not null)
            {
                written.Append(name).Append(": ").Append(Quoted(value)).Append('\n');
            }
        }

        Say("title", Title);
        Say("description", Description);
        Say("address", Address);
        Say("position", Position?.ToString(CultureInfo.InvariantCulture));
        Say("gate", Gate);
        Say("draft", Draft ? "true" : null);
        return written.Append(Fence).Append("\n\n").Append(Text.TrimEnd('\n')).Append('\n').ToString();
    }

    /// <summary>Plain where nothing in it could be taken for something else, else in double quotes as JSON has them (YAML 1.2 §7.3.1).</summary>
    private static string Quoted(string value) =>
        value.Length > 0 && value.All(c => char.IsLetterOrDigit(c) || c is ' ' or '-' or '_' or '.' or ',' or '/' or '(' or ')' or '’')
        && char.IsLetterOrDigit(value[0]) && value[^1] != ' ' ? value
            : System.Text.Json.JsonSerializer.Serialize(value, Json.Options);

    private static Dictionary<string, string?> Values(string path, string yaml)
    {
        var values = new Dictionary<string, string?>(StringComparer.Ordinal);
        try
        {
            var stream = new YamlStream();
            stream.Load(new StringReader(yaml));
            if (stream.Documents is not [{ RootNode: YamlMappingNode map }])
            {
                return values;
            }

            foreach (var (key, value) in map.Children)
            {
                var name = (key as YamlScalarNode)?.Value ?? "";
                if (!Known.Contains(name))
                {
                    throw new UsageException($"{path}:{key.Start.Line + 1}: there is no “{name}” of a page. There are: {string.Join(", ", Known)}.");
                }

                values[name] = value is YamlScalarNode scalar ? scalar.Value
                    : throw new UsageException($"{path}:{value.Start.Line + 1}: “{name}” is one value.");
            }
        }
        catch (YamlException fault)
        {
            throw new UsageException($"{path}:{fault.Start.Line + 1}:{fault.Start.Column}: {fault.Message}");
        }

        return values;
    }

    private static class Json
    {
        public static readonly System.Text.Json.JsonSerializerOptions Options = new()
        { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    }
}
