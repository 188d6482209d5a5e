using System.Collections.Concurrent;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Entries;

namespace WarySentinel.Service.Hosted;

/// <summary>A page of a section, or its contents, at an address.</summary>
internal sealed record Spot(HostedSection Section, HostedPage? Page, string Address);

/// <summary>What makes one page different from another.</summary>
internal readonly record struct MadeKey(string Section, string? Page, int Number, ulong Answers, string Language, bool Within);

/// <summary>A page as it went out, with every answer that went into it.</summary>
internal sealed record HostedVariant(Asked[] Answers, byte[] Body);

/// <summary>A page that was made, with what was filtered of it for visitors.</summary>
internal sealed class KeptPage(MadePage made)
{
    private const int Most = 8;
    private volatile HostedVariant[] variants = [];

    public MadePage Made => made;

    /// <summary>What went out to somebody who got the same answers; null where nobody did.</summary>
    public byte[]? For(Policy policy, Core.Facts.Visitor visitor, DateTimeOffset now)
    {
        foreach (var variant in variants)
        {
            if (Array.TrueForAll(variant.Answers, a => a.IsSameFor(policy, visitor, now)))
            {
                return variant.Body;
            }
        }

        return null;
    }

    public void Keep(HostedVariant variant) => variants = [variant, .. variants.Take(Most - 1)];
}

/// <summary>The hosted pages of one policy, until one of them changes by its time: where they stand, and those that were made lately.</summary>
internal sealed class HostedShelf
{
    private const long MostBytes = 64 << 20;
    private readonly Dictionary<string, Spot> spots = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<MadeKey, KeptPage> made = new();
    private long bytes;

    public HostedShelf(Policy policy, DateTimeOffset now)
    {
        (Policy, From) = (policy, now);
        var book = HostedBook.Of(policy);
        Until = book.Pages.Select(p => p.Next?.From).Where(f => f > now).Min() ?? DateTimeOffset.MaxValue;
        foreach (var section in book.Sections)
        {
            Put(policy, HostedCommands.AddressOf(policy, section.Id), a => new Spot(section, null, a));
        }

        foreach (var page in book.Pages)
        {
            if (book.Section(page.Section) is { } section && policy.Graph.Find(page.Id) is { } item)
            {
                foreach (var address in item.Addresses.Where(a => !a.IsPattern))
                {
                    Put(policy, address.Text, a => new Spot(section, page, a));
                }
            }
        }
    }

    public Policy Policy { get; }

    public DateTimeOffset From { get; }

    public DateTimeOffset Until { get; }

    /// <summary>What stands at a path; null where nothing of ours does. On the path of every request.</summary>
    public Spot? At(RequestPath path) => spots.GetValueOrDefault(path.Key);

    public KeptPage? Find(MadeKey key) => made.GetValueOrDefault(key);

    public KeptPage Keep(MadeKey key, MadePage page)
    {
        var kept = new KeptPage(page);
        // With what is filtered of it.
        if (Interlocked.Add(ref bytes, page.Html.Length * 3L) > MostBytes)
        {
            made.Clear();
            Interlocked.Exchange(ref bytes, page.Html.Length * 3L);
        }

        made[key] = kept;
        return kept;
    }

    private void Put(Policy policy, string? address, Func<string, Spot> spot)
    {
        if (address is not null && RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _))
        {
            spots[path.Key] = spot(address);
        }
    }
}
