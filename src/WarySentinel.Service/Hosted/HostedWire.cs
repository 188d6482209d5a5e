using WarySentinel.Contract.Hosted;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Hosted;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>Hosted pages as the API says them.</summary>
internal static class HostedWire
{
    public static SectionView ToWire(this HostedSection section, Policy policy, DateTimeOffset now)
    {
        var item = policy.Graph.Find(section.Id);
        return new SectionView(
            section.Key, item?.Title ?? section.Key, HostedCommands.AddressOf(policy, section.Id), section.Description, section.Layout, section.Template,
            section.InSite, item?.Parents is [var parent, ..] && parent != ItemId.Site ? parent.ToString() : null,
            HostedBook.Of(policy).Pages.Count(p => p.Section == section.Key), OwnGate.Of(policy, section.Id, now).ToWire(), section.Version);
    }

    public static HostedPageView ToWire(this HostedPage page, Policy policy, int draft, ServiceOptions options, DateTimeOffset now)
    {
        var (served, later, address) = (page.At(now), page.Next is { } next && next.From > now ? next : null, HostedCommands.AddressOf(policy, page.Id));
        return new HostedPageView(
            page.Key, page.Section, page.Title, address, page.Position, served is not null ? "published" : later is not null ? "scheduled" : "draft",
            served?.Number, served is null ? null : SiteDates.Write(served.From), later?.Number, later is null ? null : SiteDates.Write(later.From), draft,
            OwnGate.Of(policy, page.Id, now).ToWire(), served is null || address is null ? null : options.SiteUrl.TrimEnd('/') + address, page.Version);
    }

    public static GuardingView ToWire(this Guarding guarding) => new(
        guarding.IsOpen ? "open" : guarding.Own is not null ? "own" : "inherits", guarding.Own?.Audience.ToString(),
        [.. guarding.From.Select(f => new GuardedBy(f.Gate.Key, f.Gate.Title, f.From.ToString(), f.Gate.Audience.ToString()!))]);

    public static HostedTextView ToWire(this PageDraftText draft) =>
        new(draft.Title, draft.Description, draft.Text, "draft", null, draft.Version, draft.By, SiteDates.Write(draft.At));

    public static HostedTextView ToWire(this PageVersion version, string source, int draft) =>
        new(version.Title, version.Description, version.Text, source, version.Number, draft, version.By, SiteDates.Write(version.At));

    public static PageFileView ToWire(this PageFileNamed file) => new(file.Name, file.Type, file.Size, file.Digest, file.By, SiteDates.Write(file.At));

    public static PageWriting ToCore(this HostedTextDraft draft) => new(draft.Title, draft.Description, draft.Text);
}
