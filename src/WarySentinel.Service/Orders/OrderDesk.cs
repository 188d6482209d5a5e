using System.Security.Cryptography;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Passwords;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>
/// Takes orders up: reads what is known, has it reckoned, and stores grants, account, letters and the order in one transaction, so that each is done once
/// wherever a machine dies (docs/explanation/orders.md).
/// </summary>
public sealed class OrderDesk(
    Store store, PolicyHolder policies, PeopleLane people, MemberLinks links, PasswordHashing passwords, PassDesk passes, SharedPasswords shared,
    ILetters letters, IFolders folders, ICoupons coupons, TimeProvider time)
{
    private const int MostTries = 10;
    private const int MostLetters = 50;
    private const int MostInADay = 10;

    /// <summary>Takes an order up; null where nobody has told of it.</summary>
    public async Task<Outcome<TakenUp?>> TakeUpAsync(string source, string key, string by, CancellationToken stop)
    {
        for (var tries = 1; ; tries++)
        {
            var done = await OnceAsync(source, key, by, stop);
            if (done.Problem?.Code != "member-exists" || tries == MostTries)
            {
                return done;
            }

            // Another order made the account in the meantime: it is found now.
        }
    }

    /// <summary>What taking up an order with these events would do, by a policy, in sentences. Nothing is stored.</summary>
    public async Task<IReadOnlyList<string>> WouldAsync(
        Core.Access.Policy policy, IReadOnlyList<OrderEvent> events, Wordbook book, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var kept = events.Select(e => new KeptEvent(Guid.CreateVersion7(), "try", e.Id, now, OrderEventState.Waiting, e)).ToList();
        return Would(policy, await WithMemberAsync(new OrderFile(null, kept, null, []), stop), book);
    }

    /// <summary>What taking up an order again would do, in sentences. Nothing is stored.</summary>
    public async Task<IReadOnlyList<string>> WouldAsync(string source, string key, Wordbook book, CancellationToken stop) =>
        await FileAsync(source, key, stop) is { } file ? Would(policies.Current, file, book) : [];

    private IReadOnlyList<string> Would(Core.Access.Policy policy, OrderFile file, Wordbook book)
    {
        var now = time.GetUtcNow();
        var taken = OrderCommands.TakeUp(policy, file, new FreshAccount(Guid.CreateVersion7(), null)
        {
            Passes = [.. Enumerable.Range(0, OrderCommands.PassesOf(policy, file)).Select(_ => new FreshPass(Guid.CreateVersion7(), "…", ""))],
        }, now).Value;
        return OrderSentences.Would(taken, policy, file.Member?.Grants ?? [], now, book);
    }

    private async Task<Outcome<TakenUp?>> OnceAsync(string source, string key, string by, CancellationToken stop)
    {
        (string Plain, Secret Hash)? told = null;
        if (await FileAsync(source, key, stop) is { } first && OrderCommands.NeedsPassword(policies.Current, first))
        {
            var plain = Passphrase.Draw(policies.Current.Settings.Language, RandomNumberGenerator.GetInt32);
            var hash = await passwords.TryHashAsync(plain, stop);
            if (hash.Problem is { } busy)
            {
                return busy;
            }

            told = (plain, hash.Value);
        }

        return await people.ChangeAsync<TakenUp?>(
            async () =>
            {
                if (await FileAsync(source, key, stop) is not { } file)
                {
                    return new Edit<TakenUp?>(new Edit("order.take", key, []), null);
                }

                var policy = policies.Current;
                var needs = OrderCommands.NeedsPassword(policy, file);
                var now = time.GetUtcNow();
                var drawn = Enumerable.Range(0, OrderCommands.PassesOf(policy, file)).Select(_ => passes.Draw()).ToList();
                var fresh = new FreshAccount(Guid.CreateVersion7(), needs ? told?.Hash : null) { Passes = [.. drawn.Select(d => d.Fresh)] };
                var taken = OrderCommands.TakeUp(policy, file, fresh, now);
                List<Change> written = [.. taken.Value.Passes.Select(p => passes.Letter(
                    p.Pass, drawn.First(d => d.Fresh == p.Fresh).Password, taken.Value.Story.Buyer?.Language))];
                foreach (var letter in taken.Value.Letters)
                {
                    written.AddRange(await WriteAsync(policy, letter, taken.Value, needs ? told?.Plain : null, now, stop));
                }

                var counted = await coupons.SettleAsync(policy, taken.Value.Order, taken.Value.Story, taken.Value.Member, stop);
                return new Edit<TakenUp?>(
                    taken.ToStore with
                    {
                        Changes = [.. taken.ToStore.Changes, .. written, .. counted?.Changes ?? []],
                        Notes = counted is null ? taken.ToStore.Notes : [.. taken.ToStore.Notes, counted with { Changes = [] }],
                    },
                    taken.Value);
            },
            by);
    }

    private async Task<OrderFile?> FileAsync(string source, string key, CancellationToken stop)
    {
        var events = (await store.OrderEventsAsync(source, key, stop)).Where(e => e.Event is not null && e.State != OrderEventState.Unreadable).ToList();
        return events.Count == 0 ? null : await WithMemberAsync(
            new OrderFile(await store.OrderAsync(source, key, stop), events, null,
                [])
            { Passes = await store.PassesOfOrderAsync($"{source}:{key}", stop) }, stop);
    }

    private bool HasFolder(Core.Catalogue.ItemId item) => folders.Open(policies.Current, [item], time.GetUtcNow()).Count > 0;

    /// <summary>The file with whoever it is for: the account that it was given to, unless its address was mended since.</summary>
    private async Task<OrderFile> WithMemberAsync(OrderFile file, CancellationToken stop)
    {
        var story = OrderStory.Of(file.Events.Select(e => e.Event!));
        var address = OrderCommands.AddressOf(story);
        var given = file.Order?.Member is { } id ? await store.MemberAsync(id, stop) : null;
        var isMended = story.MendedTo is not null && given is not null && address is not null && given.Email != address && file.Order!.Email != address;
        var member = given is not null && !isMended ? given : address is null ? null : await store.MemberByNameAsync(address, stop);
        var others = member is null ? [] : (await store.OrdersOfAsync(member.Id, stop)).Where(o => o.Order.Id != file.Order?.Id).ToList();
        var open = await ToldGatesAsync(stop);
        return file with
        {
            Member = member,
            Others = others,
            Former = isMended ? given : null,
            HasFolder = HasFolder,
            HasPassword = open.Contains,
            Seats = await SeatsAsync(file.Order, isMended ? given!.Id : null, stop),
        };
    }

    /// <summary>The gates whose shared password letters may tell.</summary>
    private async Task<IReadOnlySet<string>> ToldGatesAsync(CancellationToken stop)
    {
        var gates = new HashSet<string>(StringComparer.Ordinal);
        foreach (var gate in FulfilmentBook.Of(policies.Current).All.Select(r => r.Gate).OfType<string>().Distinct())
        {
            if (await shared.ForOrdersAsync(gate, stop) is not null)
            {
                gates.Add(gate);
            }
        }

        return gates;
    }

    /// <summary>The organisation of an order, without whoever had the order until its address was mended.</summary>
    private async Task<SeatsThere> SeatsAsync(Order? order, Guid? without, CancellationToken stop) =>
        order?.Organisation is { } id && await store.OrganisationAsync(id, stop) is { } found
            ? new SeatsThere(found, [.. (await store.MembersAsync([.. found.People.Select(p => p.Member).Where(m => m != without)], stop)).Values])
            : SeatsThere.None;

    /// <summary>What a letter tells of shared passwords, a line each; null for nothing.</summary>
    private async Task<string?> SharedSaidAsync(Core.Access.Policy policy, OrderLetter letter, CancellationToken stop)
    {
        var lines = new List<string>();
        foreach (var gate in letter.Promises.Select(p => p.Gate).OfType<string>().Distinct())
        {
            if (await shared.ForOrdersAsync(gate, stop) is { } plain)
            {
                lines.Add($"{policy.FindGate(gate)?.Title ?? gate}: {plain}");
            }
        }

        return lines.Count == 0 ? null : string.Join('\n', lines);
    }

    private async Task<IReadOnlyList<Change>> WriteAsync(
        Core.Access.Policy policy, OrderLetter letter, TakenUp taken, string? password, DateTimeOffset now, CancellationToken stop,
        bool isAgain = false)
    {
        var (order, story, member) = (taken.Order, taken.Story, taken.Member);
        var address = letter.To ?? member?.Email ?? order.Email;
        if (EmailAddress.Normalise(address) is null)
        {
            return [];
        }

        var to = member is not null && letter.To is null ? LetterReader.Of(member) : story.Gift is { } gift
            ? new LetterReader(address, gift.Name) : new LetterReader(address, story.Buyer?.Name, story.Buyer?.Language);
        var isGiven = letter.Kind is OrderCommands.LetterOfGiven or OrderCommands.LetterOfGift;
        var (changes, link) = (new List<Change>(), letters.PageAt("/"));
        var opens = false;
        // Who was told a password in a letter that never came sets one.
        var lost = isAgain && member is { SeenAt: null } && letter.Promises.Any(p => p.Way == FulfilmentWay.Password);
        var direct = isGiven && letter.Promises.All(OrderPasses.IsByLetter);
        var found = isGiven ? FoldersOf(policy, letter, taken, now) : [];
        if (direct && found.Count > 0)
        {
            link = letters.PageAt(found[0].Path);
        }
        else if (isGiven && member is not null && order.Member == member.Id && AccountLinks.InPlaceOfPassword(member) is { } purpose
            && (lost || member.Status != MemberStatus.Active))
        {
            var made = await links.MintAsync(member, purpose, now, stop);
            if (made.Problem is null)
            {
                var (edit, secret) = made.Value;
                changes.AddRange(edit.ToStore.Changes);
                (link, opens) = (letters.LinkTo("/password/set", secret), true);
            }
        }
        else if (isGiven && letter.Promises.Select(p => p.LandsOn).FirstOrDefault(l => l is not null) is { } lands)
        {
            link = letters.PageOf(lands);
        }

        var seats = letter.Promises.Sum(p => p.Seats ?? 0);
        var begins = isGiven && story.StartedAt is null && letter.Promises.Any(p => p.Facts.Any(f => f.Starts == PlanStart.ByHand));
        changes.Add(letters.Write(
            letter.Kind, to, ("seats", isGiven && seats > 1 ? seats.ToString(System.Globalization.CultureInfo.InvariantCulture) : null),
            ("begin", begins ? "yes" : null), ("shared", isGiven ? await SharedSaidAsync(policy, letter, stop) : null), ("order", order.Key),
            ("things", await ThingsAsync(policy, letter, taken, to.Language, now, stop)), ("link", link),
            ("folders", FoldersSaid(policy, found, to.Language)), ("direct", direct ? "yes" : null),
            ("new", opens ? "yes" : null), ("password", taken.IsNew ? password : null), ("from", story.Buyer?.Name), ("words", story.Gift?.Words),
                ("address", order.Email)));
        return changes;
    }

    /// <summary>The folders of an order that is delivered by link.</summary>
    public IReadOnlyList<FolderLink> FoldersOf(Order order) =>
        folders.Open(policies.Current, [.. order.Promises.Where(p => p.IsTold && OrderPasses.IsByLink(p)).SelectMany(ItemsOf)], time.GetUtcNow());

    /// <summary>The folders to download from that somebody has by a letter's lines.</summary>
    private IReadOnlyList<FolderLink> FoldersOf(Core.Access.Policy policy, OrderLetter letter, TakenUp taken, DateTimeOffset now)
    {
        var direct = folders.Open(policy, [.. letter.Promises.Where(OrderPasses.IsByLink).SelectMany(ItemsOf)], now);
        if (taken.Member is not { } member || taken.Order.Member != member.Id)
        {
            return direct;
        }

        var (order, bought) = (taken.Order, letter.Promises.Where(OrderPasses.NeedsAccount).SelectMany(ItemsOf).ToList());
        var without = member with { Grants = [.. member.Grants.Where(g => !order.Gave(g))] };
        // Who was invited is let in by the very letter.
        var (with, before) = (member with { Status = MemberStatus.Active }, without with { Status = MemberStatus.Active });
        return [.. direct, .. folders.Given(policy, with.AsVisitor(), before.AsVisitor(), bought, now).Where(f => direct.All(d => d.Path != f.Path))];
    }

    private static IEnumerable<Core.Catalogue.ItemId> ItemsOf(OrderPromise promise) => promise.Facts.Where(f => f.Fact.Kind == FactKind.Bought)
        .Select(f => Core.Catalogue.ItemId.TryParse(f.Fact.Key, out var id) ? id : (Core.Catalogue.ItemId?)null).OfType<Core.Catalogue.ItemId>();

    private string? FoldersSaid(Core.Access.Policy policy, IReadOnlyList<FolderLink> found, string? language)
    {
        var dates = new SiteDates(policy.Settings.TimeZone);
        return found.Count == 0 ? null : string.Join('\n', found.Select(f =>
            $"– {f.Title}{(f.Until is { } until ? $" ({letters.Day(dates.StartOf(dates.DayOf(until)), language)})" : "")}: {letters.PageAt(f.Path)}"));
    }

    /// <summary>Writes the letter of what was given again; false where one was written a moment ago, or there is nothing to write.</summary>
    public async Task<bool> SendAgainAsync(Order order, CancellationToken stop)
    {
        var done = await people.ChangeAsync<bool>(
            async () =>
            {
                var (policy, now) = (policies.Current, time.GetUtcNow());
                var nothing = new Edit<bool>(new Edit("order.again", order.Subject, []), false);
                if (await FileAsync(order.Source, order.Key, stop) is not { Order: { } there } file)
                {
                    return nothing;
                }

                var story = OrderStory.Of(file.Events.Select(e => e.Event!));
                var told = new ToldOrder(there, story).Present.Where(
                    p => p.IsTold && (OrderPasses.NeedsAccount(p) ? file.Member is not null : OrderPasses.IsByLetter(p))).ToList();
                var lost = file.Passes.Where(p => p.Email == there.Email && p.IsInForce(now)).ToList();
                var kind = story.Gift is null ? OrderCommands.LetterOfGiven : OrderCommands.LetterOfGift;
                if ((told.Count == 0 && lost.Count == 0)
                    || !await MayAgainAsync(told.Count > 0 && file.Member is { } mine ? mine.Email : there.Email, [kind, PassDesk.LetterOfPass], now, stop))
                {
                    return nothing;
                }

                // The row is taken under its version, so that asking twice at once is asking once.
                List<Change> written = [new OrderPut(there with { Version = there.Version + 1 }, there.Version)];
                written.AddRange(told.Count == 0 ? [] : await WriteAsync(
                    policy, new OrderLetter(kind, told), new TakenUp(there, story, file.Member, false, []), null, now, stop, true));
                foreach (var pass in lost)
                {
                    // A password that is kept nowhere cannot be told again: there is another.
                    var drawn = passes.Draw();
                    written.AddRange(PassCommands.Rotate(pass, drawn.Fresh.Digest, TimeSpan.Zero, now).Value.ToStore.Changes);
                    written.Add(passes.Letter(pass, drawn.Password, story.Buyer?.Language));
                }

                return new Edit<bool>(new Edit("order.again", order.Subject, written), true);
            },
            "buyer");
        return done.Problem is null && done.Value;
    }

    private async Task<bool> MayAgainAsync(string address, string[] kinds, DateTimeOffset now, CancellationToken stop)
    {
        var lately = (await store.MessagesAsync(MostLetters, null, address, stop: stop)).Where(m => kinds.Contains(m.Kind)).ToList();
        return !lately.Exists(m => now - m.CreatedAt < AccountLinks.Pace) && lately.Count(m => now - m.CreatedAt < TimeSpan.FromDays(1)) < MostInADay;
    }

    /// <summary>What was bought, a line each: what it is called, and until when it lasts.</summary>
    private async Task<string> ThingsAsync(
        Core.Access.Policy policy, OrderLetter letter, TakenUp taken, string? language, DateTimeOffset now, CancellationToken stop)
    {
        var (lines, dates) = (new List<string>(), new SiteDates(policy.Settings.TimeZone));
        var others = taken.Member is null ? [] : (await store.OrdersOfAsync(taken.Member.Id, stop)).Where(o => o.Order.Id != taken.Order.Id);
        var paid = taken.Member is null || letter.Kind == OrderCommands.LetterOfEnd ? []
            : OrderCommands.PaidFor(policy, taken.Member, [.. others, new ToldOrder(taken.Order, taken.Story)]);
        foreach (var fact in letter.Promises.SelectMany(p => p.Facts).Select(f => f.Fact).Distinct())
        {
            // What is paid for is told, and not what goes on after it for a while.
            var until = paid.Where(g => g.Kind == fact.Kind && g.Key == fact.Key && !g.IsOver(now)).Select(g => g.Until).DefaultIfEmpty().Max();
            lines.Add(until is { } end ? $"{TitleOf(policy, fact)} ({letters.Day(dates.StartOf(dates.DayOf(end)), language)})" : TitleOf(policy, fact));
        }

        return string.Join('\n', lines.Count > 0 ? lines.Select(l => "– " + l) : taken.Story.Lines.Select(l => "– " + l.Name));
    }

    /// <summary>What a fact is called.</summary>
    public static string TitleOf(Core.Access.Policy policy, GivenFact fact) => fact.Kind == FactKind.Bought
        ? Core.Catalogue.ItemId.TryParse(fact.Key, out var id) && policy.Graph.Find(id) is { } item ? item.Title : fact.Key
        : policy.FindDefinition(fact.Kind, fact.Key)?.Title ?? fact.Key;
}
