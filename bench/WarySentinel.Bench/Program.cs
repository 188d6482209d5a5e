using WarySentinel.Bench;
// The measured peers, each as a process of its own, and what is measured inside one process. bench/run.sh puts them together.
switch (args)
{
    case ["decisions"]:
        Decisions.Run();
        return 0;
    case ["filter"]:
        Filtering.Run();
        return 0;
    case ["bare-204", var listen]:
        await Peers.Bare204(listen);
        return 0;
    case ["bare-page", var listen, var file, var heads]:
        await Peers.BarePage(listen, file, heads);
        return 0;
    case ["bare-proxy", var listen, var origin]:
        await Peers.BareProxy(listen, origin);
        return 0;
    case ["whole-proxy", var listen, var origin]:
        await Peers.WholeProxy(listen, origin);
        return 0;
    case ["origin", var listen]:
        await Peers.Origin(listen);
        return 0;
    case ["seed", var provider, var connection, var members]:
        await LargeSite.SeedAsync(provider, connection, Whole(members));
        return 0;
    case ["start", var provider, var connection]:
        await LargeSite.StartAsync(provider, connection);
        return 0;
    case ["talk", var address, var connections, var seconds]:
        await Talking.RunAsync(address, Whole(connections), Whole(seconds));
        return 0;
    case ["joins", var site, var count, var seconds, var networks, var cookie]:
        await new Joining(site).RunAsync(Whole(count), Whole(seconds), Whole(networks), cookie);
        return 0;
    case ["tells", var site, var count, var first, var only]:
        await new Telling(site).RunAsync(Whole(count), Whole(first), only);
        return 0;
    case ["orders", var site, var admin, var token, var secret, var count, var connections]:
        var orders = new Orders(site, admin, token, secret);
        await orders.PaceAsync(300, 20);
        await orders.FloodAsync(Whole(count), Whole(connections));
        return 0;
    case ["people", var what, var machines, var sites, var token, .. var more]:
        var people = new People(machines.Split(','), sites.Split(','), token);
        int Number(int at) => Whole(more[at]);
        await (what switch
        {
            "write" => people.WriteAsync(Number(0), Number(1)),
            "pace" => people.PaceAsync(Number(0), Number(1), Number(2)),
            "holds" => people.HoldsAsync(more[0], more[1], more[2], more[3]),
            "ends" => people.EndsAsync(more[0], more[1], more[2], more[3], more[4], more[5]),
            _ => people.SearchAsync(),
        });
        return 0;
    default:
        Console.Error.WriteLine("bench: decisions | filter | seed PROVIDER CONNECTION MEMBERS | people WHAT MACHINES SITES TOKEN … | bare-204 LISTEN | "
            + "bare-page LISTEN FILE HEADS | "
            + "bare-proxy LISTEN ORIGIN | whole-proxy LISTEN ORIGIN | "
            + "origin LISTEN | talk ADDRESS CONNECTIONS SECONDS | joins SITE COUNT SECONDS NETWORKS COOKIE | "
            + "tells SITE COUNT FIRST PART | orders SITE ADMIN TOKEN SECRET COUNT CONNECTIONS");
        return 2;
}

static int Whole(string text) => int.Parse(text, System.Globalization.CultureInfo.InvariantCulture);
