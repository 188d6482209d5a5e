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
    case ["bare-proxy", var listen, var origin]:
        await Peers.BareProxy(listen, origin);
        return 0;
    case ["origin", var listen]:
        await Peers.Origin(listen);
        return 0;
    default:
        Console.Error.WriteLine("bench: decisions | filter | bare-204 LISTEN | bare-proxy LISTEN ORIGIN | origin LISTEN");
        return 2;
}
