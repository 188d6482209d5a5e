using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Files;

/// <summary>Folders to download from: when their addresses change, and which ways lead into them.</summary>
public sealed class AreaTests
{
    private static readonly string[] Zones = ["Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "UTC"];
    private static readonly string[] Lengths = ["P1D", "P3D", "P1W", "P1M", "P1M10D", "P1Y"];

    private static readonly Policy Site = Core.Access.Policy.Build(
        [Item("download:sky-atlas"), Item("download:log")], [], [], new SiteSettings { TimeZone = "Europe/Lisbon" }).Value;

    private static Outcome<Edit<Area>> Put(Policy policy, AreaDraft draft, DateTimeOffset? at = null, int? version = null) =>
        AreaCommands.Put(policy, draft, version, Guid.NewGuid(), at ?? Now);

    private static AreaDraft Atlas(string? every = "P1W") => new() { Key = "atlas", Item = "download:sky-atlas", Every = every };

    private static (string Zone, Area Area, DateTimeOffset At) Some(int zone, int length, uint begin, uint later)
    {
        var area = Put(Site, Atlas(Lengths[(length & 0xff) % Lengths.Length]), DateTimeOffset.UnixEpoch.AddMinutes(begin)).Value.Value;
        return (Zones[(zone & 0xff) % Zones.Length], area, area.Since.AddMinutes(later % 4_000_000));
    }

    /// <summary>The same counted up one by one.</summary>
    private static AreaTerm Counted(Area area, SiteDates dates, DateTimeOffset at)
    {
        var n = 0;
        while (dates.After(area.Since, area.Every!, n + 1) <= at)
        {
            n++;
        }

        return new AreaTerm(area.First + n, dates.After(area.Since, area.Every!, n), dates.After(area.Since, area.Every!, n + 1));
    }

    [Property(MaxTest = 150)]
    public void At_every_moment_one_address_is_the_present_one(int zone, int length, uint begin, uint later)
    {
        var (name, area, at) = Some(zone, length, begin, later);
        var dates = new SiteDates(name);
        var term = area.TermAt(dates, at);
        term.ShouldBe(Counted(area, dates, at));
        term.From.ShouldBeLessThanOrEqualTo(at);
        term.Until!.Value.ShouldBeGreaterThan(at);
        area.TermAt(dates, term.Until.Value).Number.ShouldBe(term.Number + 1);
        area.TermAt(dates, term.Until.Value.AddTicks(-1)).Number.ShouldBe(term.Number);
    }

    [Property(MaxTest = 150)]
    public void The_address_before_works_for_the_overlap_and_none_else_does(int zone, int length, uint begin, uint later, ushort hours)
    {
        var (name, area, at) = Some(zone, length, begin, later);
        var dates = new SiteDates(name);
        area = area with { Overlap = TimeSpan.FromHours(hours % 24) };
        var term = area.TermAt(dates, at);
        var still = area.StillAt(dates, at);
        (still is not null).ShouldBe(term.Number > 0 && at - term.From < area.Overlap);
        still?.Number.ShouldBe(term.Number - 1);
        area.WorksUntil(dates, at).ShouldBe(term.Until + area.Overlap);
    }

    [Property(MaxTest = 150)]
    public void What_was_told_stays_right_where_how_long_an_address_lasts_is_set_anew(int zone, int length, uint begin, uint later, byte other)
    {
        var (_, area, at) = Some(zone, length, begin, later);
        var policy = Site.After(new Edit("test", "", [new AreaPut(area)]));
        var dates = new SiteDates("Europe/Lisbon");
        var before = area.TermAt(dates, at);
        var after = Put(policy, Atlas(other % 4 == 0 ? null : Lengths[other % Lengths.Length]), at).Value.Value;
        after.Named(after.TermAt(dates, at).Number).ShouldBe(area.Named(before.Number));
        if (after.Every is not null)
        {
            // An end may have come and gone by the new length, and then it is another; but no address comes twice.
            after.TermAt(dates, before.Until!.Value.AddYears(2)).Number.ShouldBeGreaterThan(before.Number);
        }
    }

    [Fact]
    public void Another_address_at_once_ends_all_before_and_takes_nothing_else_along()
    {
        var area = Put(Site, Atlas() with { Overlap = "P3D" }).Value.Value;
        var policy = Site.After(new Edit("test", "", [new AreaPut(area)]));
        var changed = AreaCommands.Change(policy, "atlas", Guid.NewGuid(), Now.AddDays(8)).Value.Value;
        changed.Named(0).ShouldNotBe(area.Named(0));
        changed.StillAt(new SiteDates("UTC"), Now.AddDays(8)).ShouldBeNull();
        (changed with { Run = area.Run, Since = area.Since, Version = area.Version }).ShouldBe(area);
        AreaCommands.Change(policy, "atlass", Guid.NewGuid(), Now).Problem!.Code.ShouldBe("area-unknown-near");
    }

    [Theory]
    [InlineData("Atlas", "download:sky-atlas", null, null, null, null, "key")]
    [InlineData("atlas", "download:sky", null, null, null, null, "item")]
    [InlineData("atlas", "atlas", null, null, null, null, "item")]
    [InlineData("atlas", "download:sky-atlas", "../etc", null, null, null, "folder")]
    [InlineData("atlas", "download:sky-atlas", "a/.hidden", null, null, null, "folder")]
    [InlineData("atlas", "download:sky-atlas", "a//b", null, null, null, "folder")]
    [InlineData("atlas", "download:sky-atlas", null, "everybody", null, null, "opens")]
    [InlineData("atlas", "download:sky-atlas", null, null, "weekly", null, "every")]
    [InlineData("atlas", "download:sky-atlas", null, null, "P1W", "-P1D", "overlap")]
    [InlineData("atlas", "download:sky-atlas", null, null, "P1W", "P8D", "overlap")]
    [InlineData("atlas", "download:sky-atlas", null, null, "P1W", "soon", "overlap")]
    public void What_is_wrong_is_said_beside_its_field(
        string key, string item, string? folder, string? opens, string? every, string? overlap, string field) =>
        Put(Site, new AreaDraft { Key = key, Item = item, Folder = folder, Opens = opens, Every = every, Overlap = overlap })
            .Problem!.Faults.ShouldContain(f => f.Field == field);

    [Fact]
    public void It_is_written_as_it_is_read_and_an_old_version_writes_over_nothing()
    {
        var area = Put(Site, Atlas() with { Folder = "big/atlas", Opens = "address", Overlap = "PT12H" }).Value.Value;
        (area.Title, area.Folder, area.Overlap).ShouldBe(("Title of download:sky-atlas", "big/atlas", TimeSpan.FromHours(12)));
        var policy = Site.After(new Edit("test", "", [new AreaPut(area)]));
        Put(policy, AreaDraft.Of(area)).Value.ToStore.Changes.ShouldBeEmpty("nothing was changed");
        Put(policy, Atlas("P1M"), version: 0).Problem!.Code.ShouldBe("stale");
        Put(policy, Atlas("P1M"), version: 1).Value.Value.Version.ShouldBe(2);
        policy.Parts.Of<AreaBook>().Holding(Id("download:sky-atlas")).ShouldBe("folder atlas", "its item does not go before it");
        AreaCommands.Remove(policy, "atlas").Value.ToStore.Changes.ShouldHaveSingleItem();
    }

    /// <summary>Whatever is asked for, what is found stands inside: by the file system's own reading, of the pieces that ways out are made of.</summary>
    [Property(MaxTest = 2000)]
    public void No_way_leads_out_of_a_folder(byte[] pieces)
    {
        string[] bits = ["..", ".", "/", "\\", "a", "b.txt", "~", "\0", " ", "..a", "a..", "%2e", "%2f", "é", "\u202e", "con", ":", "//", "./", "../", "\t"];
        var path = string.Concat((pieces ?? []).Take(8).Select(p => bits[p % bits.Length]));
        if (AreaPath.TryRead(path, out var parts))
        {
            var full = System.IO.Path.GetFullPath(System.IO.Path.Combine("/root/folder", System.IO.Path.Combine([.. parts, ""])));
            (full + "/").ShouldStartWith("/root/folder/");
            parts.ShouldAllBe(p => p[0] != '.' && !p.Any(char.IsControl));
        }
        else
        {
            (path.Contains('.', StringComparison.Ordinal) || path.Contains("%2f", StringComparison.Ordinal) || path.Split('/').Any(p => p.Length == 0)
                || path.Any(c => char.IsControl(c) || c is '\\' or '\u202e')).ShouldBeTrue(path);
        }
    }
}
