namespace WarySentinel.Oracle;

/// <summary>An item of a made-up site.</summary>
public sealed record OracleItem(string Id, string[] Parents, string[] Addresses);

/// <summary>A gate or exemption of a made-up site.</summary>
public sealed record OracleGate(
    string Key, string[] Covers, bool Exempts, bool ItemOnly, Who Audience, string[] Acts, bool Hidden, string Answer, DateTimeOffset? From,
    DateTimeOffset? Until, bool Enabled);

/// <summary>Somebody on a made-up site.</summary>
/// <param name="Email">The address of the account; null where there is none.</param>
/// <param name="Status">Where the account stands.</param>
/// <param name="Facts">Roles, groups and plans, such as <c>role:dealer</c>.</param>
/// <param name="Unlocked">Gates unlocked by shared passwords.</param>
public sealed record OracleVisitor(string? Email, string Status, string[] Facts, string[] Unlocked)
{
    public static readonly OracleVisitor Guest = new(null, "active", [], []);

    public override string ToString() => $"{Email ?? "guest"} ({Status}) {string.Join(',', Facts)} +{string.Join(',', Unlocked)}";
}

/// <summary>An expression that says whom a gate admits: how it is written, and whom it admits, each told on its own.</summary>
public abstract record Who
{
    public abstract string Text { get; }

    public abstract bool Admits(OracleVisitor visitor, string gate, bool signedIn);

    public virtual bool AsksForPassword => false;

    public sealed record Word(string Name) : Who
    {
        public override string Text => Name;

        public override bool AsksForPassword => Name == "password";

        public override bool Admits(OracleVisitor visitor, string gate, bool signedIn) => Name switch
        {
            "anyone" => true,
            "nobody" => false,
            "guest" => !signedIn,
            "signed-in" => signedIn,
            "password" => visitor.Unlocked.Contains(gate),
            _ => throw new ArgumentException(Name),
        };
    }

    public sealed record Fact(string Name) : Who
    {
        public override string Text => Name;

        public override bool Admits(OracleVisitor visitor, string gate, bool signedIn) =>
            signedIn && (visitor.Facts.Contains(Name) || (Name.StartsWith("member:", StringComparison.Ordinal) && Name["member:".Length..] == visitor.Email));
    }

    public sealed record Not(Who Inner) : Who
    {
        public override string Text => $"not ({Inner.Text})";

        public override bool AsksForPassword => Inner.AsksForPassword;

        public override bool Admits(OracleVisitor visitor, string gate, bool signedIn) => !Inner.Admits(visitor, gate, signedIn);
    }

    public sealed record Both(Who One, Who Other) : Who
    {
        public override string Text => $"({One.Text}) and ({Other.Text})";

        public override bool AsksForPassword => One.AsksForPassword || Other.AsksForPassword;

        public override bool Admits(OracleVisitor visitor, string gate, bool signedIn) =>
            One.Admits(visitor, gate, signedIn) && Other.Admits(visitor, gate, signedIn);
    }

    public sealed record Either(Who One, Who Other) : Who
    {
        public override string Text => $"({One.Text}) or ({Other.Text})";

        public override bool AsksForPassword => One.AsksForPassword || Other.AsksForPassword;

        public override bool Admits(OracleVisitor visitor, string gate, bool signedIn) =>
            One.Admits(visitor, gate, signedIn) || Other.Admits(visitor, gate, signedIn);
    }
}

/// <summary>A made-up site: what is on it, what guards it, who is there.</summary>
public sealed record World(IReadOnlyList<OracleItem> Items, IReadOnlyList<OracleGate> Gates, IReadOnlyList<OracleVisitor> Visitors, bool StaffPasses)
{
    public static readonly string[] Facts = ["role:dealer", "role:guide", "group:schools", "group:press", "plan:patron"];

    private static readonly string[] Kinds = ["section", "page", "category", "tag", "product", "download", "show", "episode"];
    private static readonly string[] Addresses =
        ["/a", "/a/b", "/a/**", "/a/b/*", "/x", "/x/*", "/a/b/c", "/a?id=1", "/b", "/b/**", "/x/y?id=1", "/*/c", "/a/*/c", "/x/index.html", "/b/*?id=1", "/**",
            "/a/**/c", "/x/*c", "/a/q*"];
    private static readonly string[] Patterns =
        ["path:/a/**", "path:/a/b", "path:/**", "path:/x/*", "path:/a/b/*", "path:/b", "path:/b/**", "path:/*/c", "path:/a?id=1", "path:/x/y/index.html",
            "path:/", "path:/**/c", "path:/**/*c", "path:/a/**/*c", "path:/x/[a-q]*"];

    private static readonly string[] Acting = ["open", "price", "buy", "download", "listen"];
    private static readonly string[] Answers = ["auto", "auto", "auto", "sign-in", "password", "message", "not-found"];

    /// <summary>A moment that gates begin and end around.</summary>
    public static readonly DateTimeOffset Noon = new(2026, 5, 3, 12, 0, 0, TimeSpan.Zero);

    public override string ToString() => string.Join('\n', Items.Select(i => $"{i.Id} < {string.Join(' ', i.Parents)} @ {string.Join(' ', i.Addresses)}")
        .Concat(Gates.Select(
        g => $"{g.Key} {(g.Exempts ? "frees" : "guards")} {string.Join(' ', g.Covers)} {(g.ItemOnly ? "item" : "branch")} {g.Audience.Text} "
            + $"{string.Join(',', g.Acts)} {(g.Hidden ? "hidden" : "")} {g.Answer} {g.From:MM-dd} {g.Until:MM-dd} {g.Enabled}")));

    /// <summary>A site from a source of chance, without rings of parents.</summary>
    public static World Make(Random random, int mostItems = 9, int mostGates = 8)
    {
        var items = new List<OracleItem>();
        for (var i = 0; i < random.Next(0, mostItems + 1); i++)
        {
            string[] parents = [.. items.Where(_ => random.Next(3) == 0).Select(p => p.Id).Concat(random.Next(5) == 0 ? ["site"] : [])];
            var fresh = new OracleItem($"{Kinds[random.Next(Kinds.Length)]}:k{i}", parents, [.. Addresses.Where(_ => random.Next(7) == 0)]);
            if (Evaluator.IsWithoutRings([.. items, fresh]))
            {
                items.Add(fresh);
            }
        }

        if (random.Next(4) == 0)
        {
            items.Add(new OracleItem("site", [], random.Next(2) == 0 ? ["/"] : []));
        }

        var gates = Enumerable.Range(0, random.Next(0, mostGates + 1)).Select(n => Gate(random, n, items)).ToList();
        return new World(items, gates, People(random, gates), random.Next(4) != 0);
    }

    /// <summary>An address that somebody might ask for, in one of its spellings.</summary>
    public static string Address(Random random)
    {
        var segments = Enumerable.Range(0, random.Next(0, 4)).Select(_ => "abcxy"[random.Next(5)].ToString()).ToList();
        var path = "/" + string.Join('/', segments);
        path = random.Next(12) switch
        {
            0 => path.ToUpperInvariant(),
            1 => path.TrimEnd('/') + "/",
            2 => path.TrimEnd('/') + "/index.html",
            3 => path.TrimEnd('/') + "/Index.php",
            4 => path.Replace("/", "//", StringComparison.Ordinal),
            5 => path.Replace("a", "%61", StringComparison.Ordinal),
            6 => "/x/.." + path,
            7 => path.TrimEnd('/') + "/./",
            _ => path,
        };
        return path + (random.Next(4) == 0 ? "?id=" + random.Next(3) : random.Next(9) == 0 ? "?z=1&id=1" : "");
    }

    private static OracleGate Gate(Random random, int number, List<OracleItem> items)
    {
        string[] covers = [.. Enumerable.Range(0, random.Next(1, 3)).Select(_ => random.Next(6) switch
        {
            0 => "site",
            1 or 2 => Patterns[random.Next(Patterns.Length)],
            _ => items.Count == 0 ? "site" : items[random.Next(items.Count)].Id,
        }).Distinct()];
        var audience = Audience(random, 2);
        var answer = Answers[random.Next(Answers.Length)];
        DateTimeOffset? from = random.Next(5) == 0 ? Noon.AddDays(random.Next(-3, 3)) : null;
        return new OracleGate(
            // Keys in no order of their making.
            $"g{(char)('a' + random.Next(26))}{number}", covers, random.Next(3) == 0, random.Next(5) == 0, audience, random.Next(3) == 0
                ? [.. Acting.Where(_ => random.Next(2) == 0)] : [],
            random.Next(3) == 0, answer == "password" && !audience.AsksForPassword ? "auto" : answer, from,
            random.Next(5) == 0 ? (from ?? Noon).AddDays(random.Next(1, 6)) : null, random.Next(8) != 0);
    }

    private static Who Audience(Random random, int deep) => random.Next(deep > 0 ? 12 : 7) switch
    {
        0 => new Who.Word("nobody"),
        1 => new Who.Word("signed-in"),
        2 => new Who.Word("password"),
        3 => new Who.Word(random.Next(2) == 0 ? "guest" : "anyone"),
        4 => new Who.Fact("member:m" + random.Next(6) + "@site.example"),
        5 or 6 => new Who.Fact(Facts[random.Next(Facts.Length)]),
        7 or 8 => new Who.Both(Audience(random, deep - 1), Audience(random, deep - 1)),
        9 or 10 => new Who.Either(Audience(random, deep - 1), Audience(random, deep - 1)),
        _ => new Who.Not(Audience(random, deep - 1)),
    };

    private static List<OracleVisitor> People(Random random, List<OracleGate> gates)
    {
        var people = new List<OracleVisitor> { OracleVisitor.Guest };
        for (var i = 0; i < 6; i++)
        {
            string[] facts = [.. Facts.Where(_ => random.Next(3) == 0), .. i == 5 ? ["role:editor"] : Array.Empty<string>()];
            people.Add(new OracleVisitor($"m{i}@site.example", i is 2 or 5 && random.Next(3) == 0 ? "suspended" : "active", facts, []));
        }

        foreach (var gate in gates.Where(g => !g.Exempts && g.Audience.AsksForPassword))
        {
            people.Add(people[random.Next(people.Count)] with { Unlocked = [gate.Key] });
        }

        return people;
    }
}
