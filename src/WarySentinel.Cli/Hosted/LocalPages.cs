using System.Security.Cryptography;
using System.Text.Json;
using WarySentinel.Contract.Hosted;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace WarySentinel.Cli.Hosted;

/// <summary>A section as a file.</summary>
internal sealed record SectionFile(string Title, string Address, string? Description, string? Layout, bool InSite, string? Parent, string? Template)
{
    private static readonly string[] Known = ["title", "address", "description", "layout", "inSite", "parent"];

    public static SectionFile Of(SectionView view) =>
        new(view.Title, view.Address ?? "", view.Description, view.Layout == "side" ? null : view.Layout, view.InSite, view.Parent, view.Template);

    public HostedSectionDraft Draft => new(Title, Address, Description, Layout, Template, InSite, Parent);

    public static SectionFile Read(string path, string content, string? template)
    {
        try
        {
            var stream = new YamlStream();
            stream.Load(new StringReader(content));
            var values = stream.Documents is [{ RootNode: YamlMappingNode map }]
                ? map.Children.ToDictionary(c => ((YamlScalarNode)c.Key).Value ?? "", c => (c.Value as YamlScalarNode)?.Value) : [];
            var odd = values.Keys.FirstOrDefault(k => !Known.Contains(k));
            return odd is not null ? throw new UsageException($"{path}: there is no “{odd}” of a section. There are: {string.Join(", ", Known)}.")
                : new SectionFile(
                    values.GetValueOrDefault("title") ?? throw new UsageException($"{path}: the section has no title."),
                    values.GetValueOrDefault("address") ?? throw new UsageException($"{path}: the section has no address."),
                        values.GetValueOrDefault("description"),
                    values.GetValueOrDefault("layout"), values.GetValueOrDefault("inSite") == "true", values.GetValueOrDefault("parent"), template);
        }
        catch (YamlException fault)
        {
            throw new UsageException($"{path}:{fault.Start.Line}:{fault.Start.Column}: {fault.Message}");
        }
    }

    public string Write() => string.Concat(new (string Name, string? Value)[]
    {
        ("title", Title), ("address", Address), ("description", Description), ("layout", Layout), ("inSite", InSite ? "true" : null), ("parent", Parent),
    }.Where(v => v.Value is not null).Select(v => $"{v.Name}: {JsonSerializer.Serialize(v.Value, Relaxed)}\n"));

    private static readonly JsonSerializerOptions Relaxed = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
}

/// <summary>A page in a folder.</summary>
/// <param name="Section">Its section.</param>
/// <param name="Key">Its name.</param>
/// <param name="File">What it says.</param>
/// <param name="Files">Its files: name and path.</param>
internal sealed record LocalPage(string Section, string Key, PageFile File, IReadOnlyDictionary<string, string> Files);

/// <summary>What a folder has, and how both sides stood when they last said the same.</summary>
internal sealed class LocalPages
{
    private const string StateFile = ".wary-pages.json";
    private static readonly JsonSerializerOptions Indented = new() { WriteIndented = true };

    private LocalPages(DirectoryInfo folder) => Root = folder;

    public DirectoryInfo Root { get; }

    public Dictionary<string, SectionFile> Sections { get; } = new(StringComparer.Ordinal);

    public List<LocalPage> Pages { get; } = [];

    /// <summary>The digest of a page when both sides last said the same; null where they never did.</summary>
    public Dictionary<string, string> Known { get; private init; } = new(StringComparer.Ordinal);

    public static LocalPages Read(DirectoryInfo folder)
    {
        var local = new LocalPages(folder) { Known = ReadKnown(folder) };
        foreach (var section in folder.EnumerateDirectories().Where(d => !d.Name.StartsWith('.')).OrderBy(d => d.Name, StringComparer.Ordinal))
        {
            var (about, layout) = (Path.Combine(section.FullName, "section.yaml"), Path.Combine(section.FullName, "layout.liquid"));
            if (!File.Exists(about))
            {
                continue;
            }

            local.Sections[section.Name] = SectionFile.Read(about, File.ReadAllText(about), File.Exists(layout) ? File.ReadAllText(layout)
                .ReplaceLineEndings("\n") : null);
            foreach (var page in section.EnumerateFiles("*.md").OrderBy(f => f.Name, StringComparer.Ordinal))
            {
                var key = Path.GetFileNameWithoutExtension(page.Name);
                var files = new DirectoryInfo(Path.Combine(section.FullName, key));
                local.Pages.Add(new LocalPage(
                    section.Name, key, PageFile.Read(page.FullName, File.ReadAllText(page.FullName)),
                    files.Exists ? files.EnumerateFiles().Where(f => !f.Name.StartsWith('.')).ToDictionary(f => f.Name, f => f.FullName) : []));
            }
        }

        return local;
    }

    public static string DigestOf(string path) => Convert.ToHexStringLower(SHA256.HashData(File.ReadAllBytes(path)));

    /// <summary>Notes how both sides stand, where they say the same.</summary>
    public void Remember(RemotePages there)
    {
        var same = Pages.Where(p => there.Pages.Any(r => r.View.Key == p.Key && r.Like(p.File).Digest == p.File.Digest))
            .ToDictionary(p => p.Key, p => p.File.Digest);
        foreach (var (key, digest) in Known.Where(k => !same.ContainsKey(k.Key) && Pages.Any(p => p.Key == k.Key)))
        {
            same[key] = digest;
        }

        File.WriteAllText(Path.Combine(Root.FullName, StateFile),
            JsonSerializer.Serialize(same.OrderBy(s => s.Key, StringComparer.Ordinal).ToDictionary(), Indented) + "\n");
    }

    private static Dictionary<string, string> ReadKnown(DirectoryInfo folder)
    {
        var path = Path.Combine(folder.FullName, StateFile);
        try
        {
            return File.Exists(path) ? JsonSerializer.Deserialize<Dictionary<string, string>>(File.ReadAllText(path)) ?? [] : [];
        }
        catch (JsonException)
        {
            // Then nothing is known of how it was; whatever differs is shown as changed on both sides.
            return [];
        }
    }
}
