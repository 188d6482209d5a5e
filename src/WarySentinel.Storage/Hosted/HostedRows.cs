using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Hosted;

namespace WarySentinel.Storage.Hosted;

internal sealed class SectionRow
{
    public required string Key { get; set; }

    /// <summary>What is set of the section, as JSON.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static SectionRow Of(HostedSection section) => new() { Key = section.Key, Body = JsonSerializer.Serialize(section), Version = section.Version };

    /// <summary>The section; where it cannot be read its pages are laid out as usual, and the fault is told.</summary>
    public (HostedSection? Section, StoredFault? Fault) ToSection()
    {
        try
        {
            if (JsonSerializer.Deserialize<HostedSection>(Body) is { Layout: not null } section)
            {
                return (section with { Key = Key, Version = Version }, null);
            }
        }
        catch (JsonException)
        {
            // Told below.
        }

        return (new HostedSection(Key) { Version = Version },
            StoredFault.Harmless("section", Key, Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));
    }

    public static void Map(EntityTypeBuilder<SectionRow> e)
    {
        e.ToTable("sections");
        e.HasKey(r => r.Key);
    }
}

internal sealed class HostedPageRow
{
    public required string Key { get; set; }

    public required string Section { get; set; }

    /// <summary>What is served of it, as JSON.</summary>
    public required string Body { get; set; }

    public int Last { get; set; }

    public int Version { get; set; }

    /// <summary>What stands in <see cref="Body"/>.</summary>
    private sealed record Written(string Title, int Position, WrittenEdition? Now, WrittenEdition? Next);

    private sealed record WrittenEdition(int Number, DateTimeOffset From, string Title, string? Description, IReadOnlyList<string> Asks)
    {
        public static WrittenEdition? Of(PageEdition? edition) => edition is null ? null
            : new(edition.Number, edition.From, edition.Title, edition.Description, [.. edition.Asks.Select(a => a.ToString()!)]);
    }

    public static HostedPageRow Of(HostedPage page) => new()
    {
        Key = page.Key, Section = page.Section, Last = page.Last, Version = page.Version,
        Body = JsonSerializer.Serialize(new Written(page.Title, page.Position, WrittenEdition.Of(page.Now), WrittenEdition.Of(page.Next))),
    };

    /// <summary>The page; where it cannot be read nothing is served of it, and the fault is told.</summary>
    public (HostedPage? Page, StoredFault? Fault) ToPage()
    {
        try
        {
            if (JsonSerializer.Deserialize<Written>(Body) is { Title: not null } written)
            {
                var (now, next) = (Read(written.Now), Read(written.Next));
                return (new HostedPage(Key, Section)
                {
                    Title = written.Title, Position = written.Position, Now = now, Next = next, Last = Last, Version = Version,
                }, null);
            }
        }
        catch (Exception fault) when (fault is JsonException or FormatException)
        {
            // Told below.
        }

        return (new HostedPage(Key, Section) { Title = Key, Last = Last, Version = Version },
            StoredFault.Harmless("hosted-page", Key, Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));
    }

    private static PageEdition? Read(WrittenEdition? edition) => edition is null ? null : edition is { Title: not null, Asks: not null }
        ? new PageEdition(edition.Number, edition.From, edition.Title, edition.Description, [.. edition.Asks.Select(Read)]) : throw new FormatException();

    private static Audience Read(string? words) => AudienceParser.ParseStored(words ?? "") is { IsGood: true } read ? read.Value : throw new FormatException();

    public static void Map(EntityTypeBuilder<HostedPageRow> e)
    {
        e.ToTable("hosted_pages");
        e.HasKey(r => r.Key);
    }
}

internal sealed class PageVersionRow
{
    public required string Page { get; set; }

    public int Number { get; set; }

    public required string Title { get; set; }

    public string? Description { get; set; }

    public required string Text { get; set; }

    public required string By { get; set; }

    public DateTimeOffset At { get; set; }

    public static PageVersionRow Of(PageVersion v) =>
        new() { Page = v.Page, Number = v.Number, Title = v.Title, Description = v.Description, Text = v.Text, By = v.By, At = v.At };

    public PageVersion ToVersion() => new(Page, Number, Title, Description, Text, By, At);

    public static void Map(EntityTypeBuilder<PageVersionRow> e)
    {
        e.ToTable("page_versions");
        e.HasKey(r => new { r.Page, r.Number });
    }
}

internal sealed class PageDraftRow
{
    public required string Page { get; set; }

    public required string Title { get; set; }

    public string? Description { get; set; }

    public required string Text { get; set; }

    public int Version { get; set; }

    public required string By { get; set; }

    public DateTimeOffset At { get; set; }

    public static PageDraftRow Of(PageDraftText d) =>
        new() { Page = d.Page, Title = d.Title, Description = d.Description, Text = d.Text, Version = d.Version, By = d.By, At = d.At };

    public PageDraftText ToDraft() => new(Page, Title, Description, Text, Version, By, At);

    public static void Map(EntityTypeBuilder<PageDraftRow> e)
    {
        e.ToTable("page_drafts");
        e.HasKey(r => r.Page);
        e.Property(r => r.Version).IsConcurrencyToken();
    }
}

internal sealed class PageFileRow
{
    public required string Page { get; set; }

    public required string Name { get; set; }

    public required string Type { get; set; }

    public int Size { get; set; }

    /// <summary>Of a picture, in pixels; null where it is none that we can read.</summary>
    public int? Width { get; set; }

    public int? Height { get; set; }

    /// <summary>SHA-256 of the content, in hexadecimal.</summary>
    public required string Digest { get; set; }

    public required byte[] Content { get; set; }

    public required string By { get; set; }

    public DateTimeOffset At { get; set; }

    public static PageFileRow Of(PageFile f) => Of(f, PictureSize.Of(f.Content));

    private static PageFileRow Of(PageFile f, (int Width, int Height)? picture) => new()
    {
        Width = picture?.Width, Height = picture?.Height,
        Page = f.Page, Name = f.Name, Type = f.Type, Size = f.Content.Length, Digest = Convert.ToHexStringLower(SHA256.HashData(f.Content)),
        Content = f.Content,
        By = f.By, At = f.At,
    };

    public static void Map(EntityTypeBuilder<PageFileRow> e)
    {
        e.ToTable("page_files");
        e.HasKey(r => new { r.Page, r.Name });
    }
}
